import {
  BufferAttribute,
  BufferGeometry,
  CanvasTexture,
  CircleGeometry,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  RingGeometry,
} from 'three'

/** How large the plate is, metres, and how far it goes on beyond whoever stands on it. */
const RADIUS = 0.78
const BEYOND = 1.12
/** What reaches aside is mostly arms, which need no ground. */
const ARMS = 0.8
/** The shadow of a figure of usual size; a long one's is as long as what reaches so far ahead. */
const SHADOW = { x: 0.8, z: 0.66, foot: 0.55 }

/** A round plate with a baked contact shadow and a rule of one metre along its edge. */
export class Plate {
  readonly group = new Group()
  private readonly disc = flat(
    new CircleGeometry(RADIUS, 56),
    new MeshBasicMaterial({ color: '#cfc8b4', toneMapped: false }),
    -0.003,
  )

  private readonly shadow = flat(
    new CircleGeometry(0.5, 40),
    new MeshBasicMaterial({ map: new CanvasTexture(makeShade()), transparent: true, depthWrite: false }),
    -0.001,
  )
  private readonly rim = flat(
    new RingGeometry(RADIUS - 0.008, RADIUS, 56),
    new MeshBasicMaterial({ color: '#7c7466', toneMapped: false }),
    -0.002,
  )
  private readonly rule = makeRule()

  constructor() {
    this.group.add(this.disc, this.shadow, this.rim, this.rule)
    this.fit(0, 0)
  }

  /** Makes room for somebody long or wide: how far it reaches to its sides, and ahead or behind; metres. */
  fit(aside: number, ahead: number): void {
    const radius = Math.max(RADIUS, Math.max(aside * ARMS, ahead) * BEYOND)
    for (const part of [this.disc, this.rim]) part.scale.set(radius / RADIUS, radius / RADIUS, 1)
    this.shadow.scale.set(SHADOW.x, Math.max(SHADOW.z, ahead / SHADOW.foot), 1)
    this.rule.position.z = radius - RADIUS
  }

  setColor(color: string): void {
    this.disc.material.color.set(color)
  }

  dispose(): void {
    this.group.traverse((part) => {
      if (!(part instanceof Mesh || part instanceof LineSegments)) return
      const { geometry, material } = part as Mesh<BufferGeometry, MeshBasicMaterial>
      geometry.dispose()
      material.map?.dispose()
      material.dispose()
    })
  }
}

function flat(geometry: BufferGeometry, material: MeshBasicMaterial, y: number) {
  const mesh = new Mesh(geometry, material)
  mesh.rotation.x = -Math.PI / 2
  mesh.position.y = y
  return mesh
}

/** Darkness that fades from the middle outwards. */
function makeShade(): HTMLCanvasElement {
  const shade = document.createElement('canvas')
  shade.width = shade.height = 128
  const context = shade.getContext('2d')!
  const gradient = context.createRadialGradient(64, 64, 4, 64, 64, 62)
  gradient.addColorStop(0, 'rgba(20,24,36,0.55)')
  gradient.addColorStop(0.45, 'rgba(20,24,36,0.22)')
  gradient.addColorStop(1, 'rgba(20,24,36,0)')
  context.fillStyle = gradient
  context.fillRect(0, 0, 128, 128)
  return shade
}

/** One metre, a tick every ten centimetres. */
function makeRule(): LineSegments {
  const ends: number[] = []
  for (let i = 0; i <= 10; i++) {
    const x = -0.5 + i / 10
    ends.push(x, 0, 0.66, x, 0, 0.66 + (i % 5 === 0 ? 0.045 : 0.022))
  }
  ends.push(-0.5, 0, 0.66, 0.5, 0, 0.66)
  return new LineSegments(
    new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(ends), 3)),
    new LineBasicMaterial({ color: '#5a5346' }),
  )
}
