import {
  CircleGeometry,
  Color,
  DirectionalLight,
  HemisphereLight,
  Mesh,
  MeshStandardMaterial,
  PerspectiveCamera,
  Scene,
  SRGBColorSpace,
  Vector3,
  WebGLRenderer,
} from 'three'
import type { DressedFigure } from '@idle-tinker/runtime'
import { extentOf } from './extent.ts'

const RADIANS_A_PIXEL = 0.008
/** Seconds between frames while nothing but a clip moves. */
const FRAME = 1 / 40

/** What is in the mirror: a figure on planks, by lantern light; it turns under the hand. */
export class Mirror {
  readonly canvas: HTMLCanvasElement
  private readonly renderer: WebGLRenderer
  private readonly scene = new Scene()
  private readonly camera = new PerspectiveCamera(24, 1, 0.1, 60)
  private readonly middle = new Vector3()
  private figure: DressedFigure | null = null
  private height = 1.8
  /** How far the figure reaches from its axis, in its own height, as it stood when it came. */
  private width = 0
  private distance = 5
  private turn = 0.45
  private frame = 0
  private last = 0
  private due = true
  private playing = false
  private readonly sized: ResizeObserver

  constructor(place: HTMLElement) {
    this.renderer = new WebGLRenderer({ antialias: true, alpha: true })
    this.renderer.outputColorSpace = SRGBColorSpace
    this.renderer.setPixelRatio(Math.min(2, devicePixelRatio))
    this.canvas = this.renderer.domElement
    this.canvas.tabIndex = -1
    place.append(this.canvas)
    const key = new DirectionalLight(new Color('#ffe2b0'), 2.6)
    key.position.set(-2.4, 3.4, 3)
    const rim = new DirectionalLight(new Color('#8fd0d8'), 1.5)
    rim.position.set(2.6, 2.4, -3)
    const planks = new Mesh(
      new CircleGeometry(0.75, 48).rotateX(-Math.PI / 2),
      new MeshStandardMaterial({ color: '#6b4a31', roughness: 1 }),
    )
    this.scene.add(new HemisphereLight('#fff2da', '#35566a', 1.5), key, rim, planks)
    this.sized = new ResizeObserver(() => this.resize(place))
    this.sized.observe(place)
    this.listen()
    this.resize(place)
    this.loop(0)
  }

  /** Puts another figure before the mirror, in the middle of a clip: it did not stand there with its arms out. */
  show(figure: DressedFigure, clip: string | null): void {
    if (this.figure) this.scene.remove(this.figure.object)
    this.figure = figure
    this.scene.add(figure.object)
    this.play(clip, 0)
    figure.update(FRAME)
    this.width = extentOf(figure.object).reach / figure.height
    this.look()
  }

  /** Something about the figure has changed. */
  look(): void {
    this.due = true
    if (this.figure) this.height = Math.max(0.3, this.figure.height)
    // all of it, arms too, and a little room
    const half = this.height * Math.max(0.59, Math.max(0.36, this.width * 1.05) / this.camera.aspect)
    this.distance = half / Math.tan((this.camera.fov * Math.PI) / 360)
    this.middle.set(0, this.height * 0.5, 0)
  }

  play(clip: string | null, fade?: number): void {
    this.playing = this.figure?.play(clip, fade) === true && clip !== null
    this.due = true
  }

  turnBy(radians: number): void {
    this.turn += radians
    this.due = true
  }

  /** What the graphics card holds now. */
  get held(): { geometries: number; textures: number; calls: number } {
    const { memory, render } = this.renderer.info
    return { geometries: memory.geometries, textures: memory.textures, calls: render.calls }
  }

  dispose(): void {
    cancelAnimationFrame(this.frame)
    this.sized.disconnect()
    this.renderer.dispose()
    this.renderer.forceContextLoss()
    this.canvas.remove()
  }

  private listen(): void {
    // a card that was lost and came back has nothing drawn
    this.canvas.addEventListener('webglcontextrestored', () => (this.due = true))
    let from: number | null = null
    this.canvas.addEventListener('pointerdown', (e) => {
      from = e.clientX
      this.canvas.setPointerCapture(e.pointerId)
    })
    this.canvas.addEventListener('pointermove', (e) => {
      if (from === null) return
      this.turnBy((e.clientX - from) * RADIANS_A_PIXEL)
      from = e.clientX
    })
    for (const name of ['pointerup', 'pointercancel'] as const) this.canvas.addEventListener(name, () => (from = null))
  }

  private resize(place: HTMLElement): void {
    const { width, height } = place.getBoundingClientRect()
    if (width < 1 || height < 1) return
    this.renderer.setSize(width, height)
    this.camera.aspect = width / height
    this.camera.updateProjectionMatrix()
    this.look()
  }

  private readonly loop = (now: number): void => {
    this.frame = requestAnimationFrame(this.loop)
    const seconds = (now - this.last) / 1000
    if (!this.due && !(this.playing && seconds >= FRAME)) return
    this.last = now
    this.due = false
    const { figure, camera } = this
    if (figure) {
      figure.object.rotation.y = this.turn
      figure.update(Math.min(0.1, seconds))
    }
    camera.position.set(0, this.middle.y + this.height * 0.1, this.distance)
    camera.lookAt(this.middle)
    this.renderer.render(this.scene, camera)
  }
}
