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

/** A round plate with a baked contact shadow and a rule of one metre along its edge. */
export class Plate {
  readonly group = new Group()
  private readonly disc = flat(
    new CircleGeometry(0.78, 56),
    new MeshBasicMaterial({ color: '#cfc8b4', toneMapped: false }),
    -0.003,
  )

  constructor() {
    const shadow = flat(
      new CircleGeometry(0.5, 40),
      new MeshBasicMaterial({ map: new CanvasTexture(makeShade()), transparent: true, depthWrite: false }),
      -0.001,
    )
    shadow.scale.set(0.8, 0.66, 1)
    const rim = flat(
      new RingGeometry(0.772, 0.78, 56),
      new MeshBasicMaterial({ color: '#7c7466', toneMapped: false }),
      -0.002,
    )
    this.group.add(this.disc, shadow, rim, makeRule())
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
