import {
  ACESFilmicToneMapping,
  BackSide,
  BufferAttribute,
  BufferGeometry,
  CircleGeometry,
  Color,
  DoubleSide,
  Group,
  Line,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  MOUSE,
  OrthographicCamera,
  PerspectiveCamera,
  Quaternion,
  Raycaster,
  RingGeometry,
  Scene,
  SRGBColorSpace,
  Vector2,
  Vector3,
  WebGLRenderer,
  CylinderGeometry,
  TorusGeometry,
  CanvasTexture,
} from 'three'
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js'
import type { Clip } from '@idle-tinker/core'
import type { FigureView } from '../workers/protocol'
import { FigureModel } from './FigureModel'
import { addLight } from './light'

export type LookFrom = 'front' | 'side' | 'back' | 'face'

/** Turn about the vertical for each named view; the face is seen from near. */
const TURNS: Record<LookFrom, number> = { front: 0, side: Math.PI / 2, back: Math.PI, face: 0.35 }

/** After this long without a new frame the view has come to rest, ms. */
const REST = 160
/** Slower than this, ms a frame on average, moving views are drawn with fewer pixels. */
const SLOW_FRAME = 45
const COARSE = 0.55

/** The stage: one figure on its plate, always free to be turned. Draws only when something changed. */
export class Stage {
  readonly canvas: HTMLCanvasElement
  /** Called after every drawn frame. */
  onFrame: (() => void) | null = null
  /** Called when the view has come to rest, for what is drawn less often. */
  onRest: (() => void) | null = null
  private readonly renderer: WebGLRenderer
  private readonly scene = new Scene()
  private readonly camera = new PerspectiveCamera(28, 1, 0.05, 60)
  private readonly small = new OrthographicCamera()
  private readonly controls: OrbitControls
  private readonly plate: Group
  private readonly rods = new Group()
  private model: FigureModel | null = null
  private view: FigureView | null = null
  private outline: Mesh<BufferGeometry, MeshBasicMaterial> | null = null
  private clip: Clip | null = null
  private time = 0
  private playing = false
  private last = 0
  private asked = false
  private restTimer: ReturnType<typeof setTimeout> | null = null
  private framed = false
  private frames = 0
  private lastFrame = 0
  private pace = 0
  private coarse = false

  constructor(canvas: HTMLCanvasElement) {
    this.canvas = canvas
    this.renderer = new WebGLRenderer({ canvas, antialias: true, preserveDrawingBuffer: true })
    this.renderer.toneMapping = ACESFilmicToneMapping
    this.renderer.outputColorSpace = SRGBColorSpace
    addLight(this.scene)
    this.plate = makePlate()
    this.rods.visible = false
    this.scene.add(this.plate, this.rods)
    this.controls = new OrbitControls(this.camera, canvas)
    this.controls.zoomToCursor = true
    this.controls.minDistance = 0.35
    this.controls.maxDistance = 14
    this.controls.maxPolarAngle = Math.PI * 0.62
    this.controls.addEventListener('change', () => this.draw())
    this.lookFrom('front', 0.42)
  }

  setColors(ground: string, plate: string): void {
    this.scene.background = new Color(ground)
    const disc = this.plate.children[0] as Mesh<CircleGeometry, MeshBasicMaterial>
    disc.material.color.set(plate)
    this.draw()
  }

  resize(width: number, height: number): void {
    if (width < 2 || height < 2) return
    this.renderer.setPixelRatio(this.fine)
    this.renderer.setSize(width, height, false)
    this.camera.aspect = width / height
    this.camera.updateProjectionMatrix()
    this.draw()
  }

  show(view: FigureView): void {
    this.view = view
    if (!this.model?.update(view)) {
      if (this.model) {
        this.scene.remove(this.model.mesh)
        this.model.dispose()
      }
      this.model = new FigureModel(view)
      this.scene.add(this.model.mesh)
    }
    this.setOutline(null)
    this.drawBones()
    this.pose()
    if (!this.framed) {
      this.framed = true
      this.home()
    }
    this.draw()
  }

  /** A thin amber outline around pieces, by their index ranges. */
  setOutline(ranges: { start: number; count: number }[] | null): void {
    if (this.outline) {
      this.outline.removeFromParent()
      this.outline.traverse((part) => {
        if (!(part instanceof Mesh)) return
        const { geometry, material } = part as Mesh<BufferGeometry, MeshBasicMaterial>
        geometry.dispose()
        material.dispose()
      })
      this.outline = null
    }
    if (ranges?.length && this.model && !this.clip) {
      this.outline = outlineOf(this.model.mesh.geometry, ranges)
      this.scene.add(this.outline)
    }
    this.draw()
  }

  showBones(on: boolean): void {
    this.rods.visible = on
    this.drawBones()
    this.draw()
  }

  /** Paints the weights of one bone in a light-to-dark ramp; null brings the colors back. */
  showWeights(bone: string | null): void {
    if (!this.model || !this.view) return
    const geometry = this.model.mesh.geometry
    const index = this.view.bones.findIndex((b) => b.name === bone)
    const colors = geometry.getAttribute('color') as BufferAttribute
    const { mesh } = this.view
    const material = this.model.mesh.material
    material.map = index < 0 ? this.model.atlas : null
    material.needsUpdate = true
    for (let v = 0; v < colors.count; v++) {
      if (index < 0) colors.setXYZ(v, mesh.colors[v * 3]!, mesh.colors[v * 3 + 1]!, mesh.colors[v * 3 + 2]!)
      else {
        let w = 0
        for (let k = 0; k < 4; k++) if (mesh.joints[v * 4 + k] === index) w += mesh.weights[v * 4 + k]!
        const [r, g, b] = ramp(w)
        colors.setXYZ(v, r, g, b)
      }
    }
    colors.needsUpdate = true
    this.draw()
  }

  setClip(clip: Clip | null): void {
    this.clip = clip
    if (!clip) this.playing = false
    this.pose()
    this.draw()
  }

  play(on: boolean): void {
    this.playing = on && this.clip !== null
    this.last = performance.now()
    this.draw()
  }

  scrub(time: number): void {
    this.time = time
    this.pose()
    this.draw()
  }

  get clipTime(): number {
    return this.time
  }

  /** The next figure shown is another one: it is framed anew. */
  reframe(): void {
    this.framed = false
  }

  /** While on, dragging slides the view instead of turning it. */
  slide(on: boolean): void {
    this.controls.mouseButtons.LEFT = on ? MOUSE.PAN : MOUSE.ROTATE
  }

  /** The whole figure again. */
  home(): void {
    this.lookFrom('front', 0.42)
  }

  lookFrom(from: LookFrom, turn = TURNS[from]): void {
    const box = this.model?.mesh.geometry.boundingBox
    const height = box ? box.max.y : 1.72
    const head = this.view?.landmarks.head
    if (from === 'face' && head) {
      const size = height * 0.16
      this.aim(
        new Vector3(head[0], head[1] + size * 0.5, head[2]),
        turn,
        0.05,
        (size * 2.1) / Math.tan((28 * Math.PI) / 360) / 1.1,
      )
    } else this.aim(new Vector3(0, height * 0.5, 0), turn, 0.1, (height * 0.62) / Math.tan((28 * Math.PI) / 360))
  }

  /** Brings a part close. */
  closeUp(start: number, count: number): void {
    if (!this.model) return
    const { index } = this.model.mesh.geometry
    const position = this.model.mesh.geometry.getAttribute('position')
    const points = Array.from({ length: count }, (_, i) =>
      new Vector3().fromBufferAttribute(position, index!.getX(start + i)),
    )
    const center = points.reduce((a, p) => a.add(p), new Vector3()).divideScalar(points.length)
    const radius = Math.max(0.12, ...points.map((p) => p.distanceTo(center)))
    const turn = Math.atan2(
      this.camera.position.x - this.controls.target.x,
      this.camera.position.z - this.controls.target.z,
    )
    this.aim(center, turn, 0.12, (radius * 1.5) / Math.tan((28 * Math.PI) / 360))
  }

  /** The piece under a place on the screen, client coordinates. */
  pieceAt(x: number, y: number): { slot: string; start: number; count: number } | null {
    if (!this.model || !this.view) return null
    const box = this.canvas.getBoundingClientRect()
    const ray = new Raycaster()
    ray.setFromCamera(
      new Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2),
      this.camera,
    )
    const hit = ray.intersectObject(this.model.mesh, false)[0]
    if (!hit?.faceIndex && hit?.faceIndex !== 0) return null
    const at = hit.faceIndex * 3
    return this.view.pieces.find((p) => at >= p.start && at < p.start + p.count) ?? null
  }

  /** A landmark's place on the screen, in the canvas's own pixels, and the screen direction of a world one a metre long. */
  project(
    landmark: string,
    direction: readonly [number, number, number],
  ): { x: number; y: number; dx: number; dy: number; behind: boolean } | null {
    const at = this.view?.landmarks[landmark]
    if (!at) return null
    const a = new Vector3(...at)
    const b = a.clone().add(new Vector3(...direction).normalize().multiplyScalar(0.1))
    const { clientWidth: w, clientHeight: h } = this.canvas
    const screen = (v: Vector3) => {
      const p = v.clone().project(this.camera)
      return [((p.x + 1) / 2) * w, ((1 - p.y) / 2) * h] as const
    }
    const [ax, ay] = screen(a)
    const [bx, by] = screen(b)
    const facing = new Vector3(...direction).setLength(1)
    const towards = this.camera.position.clone().sub(a).normalize()
    return { x: ax, y: ay, dx: (bx - ax) * 10, dy: (by - ay) * 10, behind: facing.dot(towards) < -0.75 }
  }

  /** Draws the small views of the turnaround into canvases. */
  drawTurnaround(targets: Partial<Record<LookFrom, HTMLCanvasElement>>): void {
    if (!this.model) return
    const size = this.renderer.getSize(new Vector2())
    const ratio = this.renderer.getPixelRatio()
    const background = this.scene.background
    const hidden = [this.plate, this.outline, this.rods].filter((o) => o !== null).map((o) => ({ o, was: o.visible }))
    for (const { o } of hidden) o.visible = false
    this.scene.background = null
    for (const [name, canvas] of Object.entries(targets) as [LookFrom, HTMLCanvasElement][]) {
      const [w, h] = [canvas.width, canvas.height]
      this.renderer.setPixelRatio(1)
      this.renderer.setSize(w, h, false)
      const height = this.model.mesh.geometry.boundingBox!.max.y
      const head = this.view!.landmarks.head ?? [0, height * 0.85, 0]
      const crown = this.view!.landmarks.crown ?? [0, height, 0]
      const face = name === 'face'
      const half = face ? Math.max((crown[1] - head[1]) * 0.74, this.headWidth() * 0.62 * (h / w)) : height * 0.54
      const center = face
        ? new Vector3(head[0], (head[1] + crown[1]) / 2, head[2])
        : new Vector3(0, height * 0.5, name === 'side' ? -height * 0.03 : 0)
      Object.assign(this.small, {
        top: half,
        bottom: -half,
        left: (-half * w) / h,
        right: (half * w) / h,
        near: 0.01,
        far: 20,
      })
      this.small.position.set(center.x + Math.sin(TURNS[name]) * 5, center.y, center.z + Math.cos(TURNS[name]) * 5)
      this.small.lookAt(center)
      this.small.updateProjectionMatrix()
      this.renderer.setClearColor(0, 0)
      this.renderer.clear()
      this.renderer.render(this.scene, this.small)
      const context = canvas.getContext('2d')!
      context.clearRect(0, 0, w, h)
      context.drawImage(this.renderer.domElement, 0, 0)
    }
    for (const { o, was } of hidden) o.visible = was
    this.scene.background = background
    this.renderer.setPixelRatio(ratio)
    this.renderer.setSize(size.x, size.y, false)
    this.render()
  }

  /** How wide the body's own head is, metres; hats and hair left out. */
  private headWidth(): number {
    const { mesh, pieces, landmarks } = this.view!
    const body = pieces[0]
    let widest = 0
    for (let i = body?.start ?? 0; i < (body ? body.start + body.count : 0); i++) {
      const o = mesh.indices[i]! * 3
      if (mesh.positions[o + 1]! > (landmarks.head?.[1] ?? 0)) widest = Math.max(widest, Math.abs(mesh.positions[o]!))
    }
    return widest * 2
  }

  draw(): void {
    if (this.asked) return
    this.asked = true
    requestAnimationFrame((now) => {
      this.asked = false
      if (this.playing && this.clip) {
        // a frame's own time may lie a little before the moment play was pressed
        this.time = (this.time + Math.max(0, now - this.last) / 1000) % this.clip.duration
        this.last = now
        this.pose()
        this.draw()
      }
      this.adapt(now)
      this.render()
      this.onFrame?.()
      if (this.restTimer) clearTimeout(this.restTimer)
      this.restTimer = setTimeout(() => this.rested(), REST)
    })
  }

  /** Pixels a unit at rest. */
  private get fine(): number {
    return Math.min(2, window.devicePixelRatio)
  }

  /** While frames follow each other too slowly, the stage is drawn coarser. */
  private adapt(now: number): void {
    const gap = now - this.lastFrame
    this.lastFrame = now
    if (gap > REST) return
    this.pace = this.pace * 0.7 + gap * 0.3
    if (this.pace > SLOW_FRAME && !this.coarse) this.setCoarse(true)
  }

  private setCoarse(on: boolean): void {
    this.coarse = on
    this.renderer.setPixelRatio(on ? this.fine * COARSE : this.fine)
  }

  private rested(): void {
    if (this.coarse) {
      this.setCoarse(false)
      this.render()
    }
    this.pace = 0
    this.onRest?.()
  }

  private render(): void {
    this.renderer.render(this.scene, this.camera)
    this.canvas.dataset.frames = String(++this.frames)
  }

  private aim(target: Vector3, turn: number, pitch: number, distance: number): void {
    this.controls.target.copy(target)
    this.camera.position.set(
      target.x + Math.sin(turn) * Math.cos(pitch) * distance,
      target.y + Math.sin(pitch) * distance,
      target.z + Math.cos(turn) * Math.cos(pitch) * distance,
    )
    this.controls.update()
    this.draw()
  }

  private pose(): void {
    const { model, clip } = this
    if (!model || !this.view) return
    if (!clip || clip.rotations.length !== model.bones.length) {
      model.rest()
      const root = this.view.bones[0]
      if (root) model.bones[0]!.position.set(...root.at)
    } else {
      const n = clip.times.length
      const f = (Math.min(Math.max(0, this.time), clip.duration) / clip.duration) * (n - 1)
      const i = Math.min(n - 2, Math.floor(f))
      const a = new Quaternion()
      const b = new Quaternion()
      clip.rotations.forEach((turns, bone) => {
        if (!turns) model.bones[bone]!.quaternion.identity()
        else model.bones[bone]!.quaternion.copy(a.fromArray(turns, i * 4)).slerp(b.fromArray(turns, (i + 1) * 4), f - i)
      })
      const lerp = (k: number) => clip.root[i * 3 + k]! * (1 - f + i) + clip.root[(i + 1) * 3 + k]! * (f - i)
      model.bones[0]!.position.set(lerp(0), lerp(1), lerp(2))
    }
    model.mesh.updateMatrixWorld(true)
    if (this.rods.visible) this.drawBones()
  }

  /** Thin brass rods with ring joints; left solid, right hollow. */
  private drawBones(): void {
    for (const child of [...this.rods.children]) {
      child.removeFromParent()
      if (child instanceof Mesh || child instanceof Line) child.geometry.dispose()
    }
    if (!this.rods.visible || !this.model || !this.view) return
    const material = new MeshBasicMaterial({ color: '#c58a1c', depthTest: false, transparent: true })
    const hollow = new MeshBasicMaterial({ color: '#c58a1c', wireframe: true, depthTest: false, transparent: true })
    const at = this.model.bones.map((b) => b.getWorldPosition(new Vector3()))
    this.view.bones.forEach((bone, i) => {
      const ring = new Mesh(
        new TorusGeometry(bone.name.match(/Index|Middle|Ring|Little|Thumb|Eye/) ? 0.006 : 0.014, 0.0032, 6, 14),
        material,
      )
      ring.position.copy(at[i]!)
      ring.lookAt(this.camera.position)
      this.rods.add(ring)
      if (bone.parent < 0) return
      const [a, b] = [at[bone.parent]!, at[i]!]
      const length = a.distanceTo(b)
      if (length < 1e-4) return
      const rod = new Mesh(
        new CylinderGeometry(0.0035, 0.0035, length, 5),
        bone.name.startsWith('right') ? hollow : material,
      )
      rod.position.copy(a).lerp(b, 0.5)
      rod.quaternion.setFromUnitVectors(new Vector3(0, 1, 0), b.clone().sub(a).normalize())
      this.rods.add(rod)
    })
    for (const child of this.rods.children) child.renderOrder = 3
  }

  dispose(): void {
    if (this.restTimer) clearTimeout(this.restTimer)
    this.onFrame = this.onRest = null
    this.controls.dispose()
    this.model?.dispose()
    this.renderer.dispose()
  }
}

/** Width of the line around a selected part, metres. */
const OUTLINE = 0.004

/** The part again, grown a little along its smooth normals and seen from inside: an amber line around it. */
function outlineOf(
  source: BufferGeometry,
  ranges: readonly { start: number; count: number }[],
): Mesh<BufferGeometry, MeshBasicMaterial> {
  const from = source.getAttribute('position')
  const normals = source.getAttribute('normal')
  const indices = ranges.flatMap(({ start, count }) => Array.from(source.index!.array.slice(start, start + count)))
  const keyOf = (v: number) => `${from.getX(v)} ${from.getY(v)} ${from.getZ(v)}`
  // corners at one place share one direction, or the grown part would come apart at its edges
  const directions = new Map<string, Vector3>()
  for (const v of new Set(indices)) {
    const key = keyOf(v)
    const sum = directions.get(key) ?? new Vector3()
    directions.set(key, sum.add(new Vector3().fromBufferAttribute(normals, v)))
  }
  const positions = new Float32Array(from.array.length)
  for (const v of new Set(indices)) {
    const out = directions.get(keyOf(v))!.clone().normalize().multiplyScalar(OUTLINE)
    positions.set([from.getX(v) + out.x, from.getY(v) + out.y, from.getZ(v) + out.z], v * 3)
  }
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(positions, 3))
  geometry.setIndex(indices)
  const outline = new Mesh(geometry, new MeshBasicMaterial({ color: '#e8940c', side: BackSide }))
  outline.renderOrder = 2
  // the part's own walls, seen from either side, hide the grown ones behind them: an open collar shows no amber
  const walls = new BufferGeometry().setAttribute('position', from.clone()).setIndex(indices)
  const mask = new Mesh(walls, new MeshBasicMaterial({ side: DoubleSide, colorWrite: false }))
  mask.renderOrder = 1
  outline.add(mask)
  return outline
}

/** Weight 0..1 to a ramp from pale to ink whose lightness falls steadily, so that it reads without color. */
function ramp(w: number): [number, number, number] {
  const stops: [number, number, number][] = [
    [0.9, 0.87, 0.78],
    [0.93, 0.62, 0.25],
    [0.66, 0.17, 0.18],
    [0.16, 0.05, 0.2],
  ]
  const f = Math.min(0.9999, Math.max(0, w)) * (stops.length - 1)
  const i = Math.floor(f)
  return [0, 1, 2].map((k) => stops[i]![k]! * (1 - f + i) + stops[i + 1]![k]! * (f - i)) as [number, number, number]
}

/** A round plate with a baked contact shadow and a rule of one metre along its edge. */
function makePlate(): Group {
  const group = new Group()
  const disc = new Mesh(new CircleGeometry(0.78, 56), new MeshBasicMaterial({ color: '#cfc8b4', toneMapped: false }))
  disc.rotation.x = -Math.PI / 2
  disc.position.y = -0.003
  const shade = document.createElement('canvas')
  shade.width = shade.height = 128
  const context = shade.getContext('2d')!
  const gradient = context.createRadialGradient(64, 64, 4, 64, 64, 62)
  gradient.addColorStop(0, 'rgba(20,24,36,0.55)')
  gradient.addColorStop(0.45, 'rgba(20,24,36,0.22)')
  gradient.addColorStop(1, 'rgba(20,24,36,0)')
  context.fillStyle = gradient
  context.fillRect(0, 0, 128, 128)
  const shadow = new Mesh(
    new CircleGeometry(0.5, 40),
    new MeshBasicMaterial({ map: new CanvasTexture(shade), transparent: true, depthWrite: false }),
  )
  shadow.rotation.x = -Math.PI / 2
  shadow.position.y = -0.001
  shadow.scale.set(0.8, 0.66, 1)
  const rim = new Mesh(
    new RingGeometry(0.772, 0.78, 56),
    new MeshBasicMaterial({ color: '#7c7466', toneMapped: false }),
  )
  rim.rotation.x = -Math.PI / 2
  rim.position.y = -0.002
  group.add(disc, shadow, rim)
  // the rule: one metre, a tick every ten centimetres
  const ticks: number[] = []
  for (let i = 0; i <= 10; i++) {
    const x = -0.5 + i / 10
    ticks.push(x, 0, 0.66, x, 0, 0.66 + (i % 5 === 0 ? 0.045 : 0.022))
  }
  ticks.push(-0.5, 0, 0.66, 0.5, 0, 0.66)
  const rule = new LineSegments(
    new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(ticks), 3)),
    new LineBasicMaterial({ color: '#5a5346' }),
  )
  group.add(rule)
  return group
}
