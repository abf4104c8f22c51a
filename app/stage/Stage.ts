import { Color, Scene, Vector3, type Box3, type Camera } from 'three'
import type { Clip, HelperPoint } from '@idle-tinker/core'
import type { DrawPiece, FigureView, Moves } from '../workers/protocol'
import { BLINK, lidsAt, untilBlink } from './blinking'
import { BoneRods } from './BoneRods'
import { PointMarks } from './PointMarks'
import { FigureModel } from './FigureModel'
import { addLight } from './light'
import { Outline, type IndexRange } from './Outline'
import { Plate } from './plate'
import { StageCamera, type Projected } from './StageCamera'
import { smoothNormals, type SurfaceKind } from './surfaceLook'
import { headOf, reachAcross, type Posed } from './headOf'
import { drawTurnaround, TURNS, type LookFrom } from './turnaround'
import { theViewport, type Layer, type Viewport } from './Viewport'

/** From where a figure is seen first, radians about the vertical. */
const FIRST_TURN = 0.42
/** How tall a figure is taken to be before there is one, metres. */
const HEIGHT = 1.72
/** What a figure is shown to look at lies so far before its eyes, metres. */
const LOOKS_AT = 0.3

/** The stage: one figure on its plate, always free to be turned. Drawn only when something has changed. */
export class Stage implements Layer {
  readonly canvas: HTMLCanvasElement
  readonly scene = new Scene()
  readonly camera: Camera
  /** Called after every drawn frame. */
  onFrame: (() => void) | null = null
  /** Called when the view has come to rest, for what is drawn less often. */
  onRest: (() => void) | null = null
  /** How many frames have been drawn. */
  frames = 0
  private readonly viewport: Viewport
  private readonly eye: StageCamera
  private readonly plate = new Plate()
  private model: FigureModel | null = null
  private view: FigureView | null = null
  private ranges: readonly IndexRange[] = []
  private outline: Outline | null = null
  private withBones = false
  private rods: BoneRods | null = null
  private points: readonly HelperPoint[] = []
  private litPoint: string | null = null
  private marks: PointMarks | null = null
  private painted: string | null = null
  private clip: Clip | null = null
  private time = 0
  private playing = false
  private last = 0
  private framed = false
  /** When the blink that is seen began, ms; the next one. */
  private blinkAt: number | null = null
  /** It has left its page: what was on its way to it comes too late. */
  private gone = false
  private nextBlink: ReturnType<typeof setTimeout> | null = null
  private surface: { kind: SurfaceKind; colors: ((view: FigureView) => Float32Array | null) | null } = {
    kind: 'made',
    colors: null,
  }
  /** Whether the model looks otherwise than it was made. */
  private dressed = false

  /** @throws Error if the browser gives no WebGL */
  constructor(canvas: HTMLCanvasElement) {
    this.canvas = canvas
    this.viewport = theViewport()
    this.eye = new StageCamera(canvas, () => this.draw())
    this.camera = this.eye.camera
    addLight(this.scene)
    this.scene.add(this.plate.group)
    this.home()
    this.viewport.add(this)
  }

  setColors(ground: string, plate: string): void {
    this.scene.background = new Color(ground)
    this.plate.setColor(plate)
    this.draw()
  }

  /** Takes on the size its canvas has on the page, CSS pixels. */
  resize(width: number, height: number): void {
    if (width < 2 || height < 2) return
    const fine = Math.min(2, window.devicePixelRatio)
    this.canvas.width = Math.round(width * fine)
    this.canvas.height = Math.round(height * fine)
    this.eye.setShape(width, height)
    this.draw()
  }

  show(view: FigureView): void {
    this.view = view
    this.stopBlinking()
    if (!this.model?.update(view)) {
      this.model?.dispose()
      this.model = new FigureModel(view)
      this.scene.add(this.model.mesh)
      this.model.paint(this.painted)
      this.makeOutline()
    } else this.outline?.follow()
    const { min, max } = this.model.box
    this.plate.fit(Math.max(max.x, -min.x), Math.max(max.z, -min.z))
    this.dress()
    this.pose()
    if (!this.framed) {
      this.framed = true
      this.home()
    }
    this.draw()
  }

  /** A thin line around pieces, by their index ranges; it stays on them until others are chosen. */
  setOutline(ranges: readonly IndexRange[]): void {
    const same = (r: IndexRange, i: number) => r.start === ranges[i]?.start && r.count === ranges[i]?.count
    if (ranges.length === this.ranges.length && this.ranges.every(same)) return
    this.ranges = ranges.map(({ start, count }) => ({ start, count }))
    this.makeOutline()
    this.draw()
  }

  showBones(on: boolean): void {
    this.withBones = on
    this.followBones()
    this.draw()
  }

  /** Marks helper points of the figure as it is shown, one of them larger. */
  showPoints(points: readonly HelperPoint[], lit: string | null): void {
    this.points = points
    this.litPoint = lit
    this.followPoints()
    this.draw()
  }

  /** Paints the weights of one bone in a light-to-dark ramp; null brings the colors back. */
  showWeights(bone: string | null): void {
    if (bone === this.painted) return
    this.painted = bone
    this.model?.paint(bone)
    this.draw()
  }

  /**
   * Shows the surface in another way.
   *
   * @param colors of a view, rgb a vertex in linear light; null for its own
   */
  setSurface(kind: SurfaceKind, colors: ((view: FigureView) => Float32Array | null) | null): void {
    this.surface = { kind, colors }
    this.dress()
    this.draw()
  }

  private dress(): void {
    const { kind, colors } = this.surface
    if (!this.model || !this.view || (kind === 'made' && !this.dressed)) return
    this.dressed = kind !== 'made'
    const normals = kind === 'smooth' ? smoothNormals(this.view.mesh) : null
    this.model.surface(kind === 'facets' || kind === 'wire' ? kind : 'made', normals, colors?.(this.view) ?? null)
  }

  /** From now on it blinks by itself, moving so, until it is told otherwise or shows another shape. */
  blink(moves: Moves | null): void {
    this.stopBlinking()
    if (this.gone) return
    this.model?.setLids(moves)
    this.draw()
    if (moves) this.blinkSoon()
  }

  /** How the figure that is shown moves to other faces, which clips may ask for. */
  setFaces(faces: Readonly<Record<string, Moves>>): void {
    this.model?.setFaces(faces)
    this.pose()
    this.draw()
  }

  private blinkSoon(): void {
    this.nextBlink = setTimeout(() => {
      this.blinkAt = performance.now()
      this.draw()
    }, untilBlink())
  }

  private stopBlinking(): void {
    if (this.nextBlink) clearTimeout(this.nextBlink)
    this.nextBlink = this.blinkAt = null
  }

  /** @returns whether it is in the middle of a blink */
  private moveLids(now: number): boolean {
    if (this.blinkAt === null) return false
    // a clip with a face of its own says when
    const after = this.clip?.face ? BLINK : now - this.blinkAt
    this.model?.shutEyes(lidsAt(after))
    if (after < BLINK) return true
    this.blinkAt = null
    this.blinkSoon()
    return false
  }

  setClip(clip: Clip | null): void {
    if (clip === this.clip) return
    this.clip = clip
    if (!clip) this.playing = false
    // the line does not follow poses: it is there for a figure at rest
    this.makeOutline()
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
    this.eye.slide(on)
  }

  /** Looks from where another stage looks. */
  lookLike(other: Stage): void {
    this.eye.lookLike(other.eye)
  }

  /** Turns the view, to the side and upwards, radians. */
  turnBy(side: number, up: number): void {
    this.eye.turnBy(side, up)
  }

  /** Slides the view, as shares of the height that is seen. */
  slideBy(right: number, up: number): void {
    this.eye.slideBy(right, up)
  }

  /** Nearer by a factor above 1, farther by one below. */
  nearer(factor: number): void {
    this.eye.nearer(factor)
  }

  /** The whole figure again. */
  home(): void {
    this.lookFrom('front', FIRST_TURN)
  }

  lookFrom(from: LookFrom, turn = TURNS[from], near = 1): void {
    const { view, model } = this
    if (from === 'face' && view && model) {
      const { middle, low, high, width } = headOf(view, model.height, this.posed)
      this.eye.aim(middle, (Math.max((high - low) * 1.04, width * 1.1) * 3.82) / near, turn, 0.05)
      return
    }
    const box = this.box
    const height = box ? box.max.y - Math.min(0, box.min.y) : HEIGHT
    const center = new Vector3(0, height * 0.5, 0)
    // what stands nearer looks wider
    const width = box ? reachAcross(box, center, turn) * 2.5 : 0
    // so does what of a pose lies towards the eye
    const ahead = box && box !== model?.box ? reachAcross(box, center, turn + Math.PI / 2) : 0
    this.eye.aim(center, height * 1.24 + ahead * 0.5, turn, 0.1, width + ahead * 0.5)
  }

  /** Where the figure would have to look to look at a place on the screen: degrees to its left, and up. */
  lookAngles(x: number, y: number): { toLeft: number; up: number } | null {
    const { leftEye, rightEye } = this.view?.landmarks ?? {}
    if (!leftEye || !rightEye) return null
    const eyes = new Vector3(...leftEye).add(new Vector3(...rightEye)).multiplyScalar(0.5)
    const way = this.eye.placeBefore(eyes, LOOKS_AT, x, y)?.sub(eyes)
    if (!way) return null
    const degrees = 180 / Math.PI
    return { toLeft: Math.atan2(way.x, way.z) * degrees, up: Math.atan2(way.y, Math.hypot(way.x, way.z)) * degrees }
  }

  /** Brings a piece close. */
  closeUp(range: IndexRange): void {
    const sphere = this.model?.sphereOf(range)
    if (sphere) this.eye.aim(sphere.center, Math.max(0.12, sphere.radius) * 3, this.eye.turn, 0.12)
  }

  /** The piece under a place on the screen, client coordinates. */
  pieceAt(x: number, y: number): DrawPiece | null {
    if (!this.model || !this.view) return null
    const triangle = this.eye.triangleAt(this.model.mesh, x, y)
    if (triangle === null) return null
    const at = triangle * 3
    return this.view.pieces.find((p) => at >= p.start && at < p.start + p.count) ?? null
  }

  /** The place under the pointer on something that holds others, client coordinates; through what is passed over. */
  placeAt(x: number, y: number, except: string | null = null): { on: DrawPiece; at: [number, number, number] } | null {
    if (!this.model || !this.view) return null
    for (const { triangle, at } of this.eye.hitsAt(this.model.mesh, x, y)) {
      const on = this.view.pieces.find((p) => triangle * 3 >= p.start && triangle * 3 < p.start + p.count)
      if (on?.holds && on.instance !== except) return { on, at }
    }
    return null
  }

  /** The place under the pointer on the plane through a place that faces the eye, client coordinates. */
  placeFacing(through: readonly [number, number, number], x: number, y: number): [number, number, number] | null {
    return this.eye.placeBefore(new Vector3(...through), 0, x, y)?.toArray() ?? null
  }

  /** How long a length at a place looks, pixels. */
  pixelsOf(length: number, at: readonly [number, number, number]): number {
    return this.eye.pixelsOf(length, new Vector3(...at))
  }

  /** The place on the figure in the middle of what is seen. */
  placeAhead(): { on: DrawPiece; at: [number, number, number] } | null {
    const { left, top, width, height } = this.canvas.getBoundingClientRect()
    return this.placeAt(left + width / 2, top + height / 2)
  }

  /** Where the middle of an instance is. */
  middleOf(instance: string): [number, number, number] | null {
    const piece = this.view?.pieces.find((p) => p.instance === instance)
    return (piece && this.model?.sphereOf(piece).center.toArray()) ?? null
  }

  /** Where a place and a way from it are on the screen. */
  projectPlace(at: readonly [number, number, number], direction: readonly [number, number, number]): Projected {
    return this.eye.project(at, direction)
  }

  /** Which ways are right, up and towards the eye as it looks now, each of length one. */
  sides(): Record<'right' | 'up' | 'towards', [number, number, number]> {
    return this.eye.sides()
  }

  /** Where a landmark of the figure and a way from it are on the screen. */
  project(landmark: string, direction: readonly [number, number, number], mirrored = false): Projected | null {
    const at = this.view?.landmarks[landmark]
    if (!at) return null
    return mirrored ? this.eye.project([-at[0], at[1], at[2]], direction) : this.eye.project(at, direction)
  }

  /** Draws the figure alone from named sides into canvases; nothing while the graphics are away. */
  drawTurnaround(targets: Partial<Record<LookFrom, HTMLCanvasElement>>): void {
    if (!this.model || !this.view || this.viewport.lost) return
    const { background } = this.scene
    const others = [this.plate.group, this.outline?.group, this.rods?.group, this.marks?.group].filter(
      (o) => o?.visible,
    )
    for (const o of others) o!.visible = false
    this.scene.background = null
    drawTurnaround(this.viewport, this.scene, this.view, this.box!, targets, this.posed)
    for (const o of others) o!.visible = true
    this.scene.background = background
  }

  draw(): void {
    this.viewport.draw(this)
  }

  advance(now: number): boolean {
    const blinks = this.moveLids(now)
    if (!this.playing || !this.clip) return blinks
    // a frame's own time may lie a little before the moment play was pressed
    this.time = (this.time + Math.max(0, now - this.last) / 1000) % this.clip.duration
    this.last = now
    this.pose()
    return true
  }

  drawn(): void {
    this.frames++
    this.onFrame?.()
  }

  rested(): void {
    this.onRest?.()
  }

  private pose(): void {
    if (!this.model) return
    this.model.pose(this.clip, this.time)
    this.followBones()
    this.followPoints()
  }

  /** All of the figure: as it stands in a pose that is held, else at rest, so that the view keeps still while it moves. */
  private get box(): Box3 | null {
    const { model, clip, playing } = this
    if (!model) return null
    return clip && !clip.loop && !playing ? model.posedBox() : model.box
  }

  /** Where vertices are as they are drawn; nothing of a figure at rest, which is drawn as it lies. */
  private get posed(): Posed | undefined {
    const { model, clip } = this
    return model && clip ? (vertex, out) => model.mesh.getVertexPosition(vertex, out) : undefined
  }

  private followBones(): void {
    if (this.rods) this.rods.group.visible = this.withBones
    if (!this.withBones || !this.model || !this.view) return
    if (!this.rods?.isOf(this.view.bones)) {
      this.rods?.dispose()
      this.rods = new BoneRods(this.view.bones)
      this.scene.add(this.rods.group)
    }
    this.rods.follow(this.model.bones, this.camera)
  }

  private followPoints(): void {
    const { model, view, points } = this
    if (this.marks?.points !== points) {
      this.marks?.dispose()
      this.marks = null
    }
    // points of another figure come before or after it
    if (!model || !view || points.length === 0 || points.some((p) => p.bone >= view.bones.length)) return
    if (!this.marks) this.scene.add((this.marks = new PointMarks(points, view.bones)).group)
    this.marks.follow(model.bones, this.litPoint)
  }

  private makeOutline(): void {
    this.outline?.dispose()
    this.outline = null
    if (!this.ranges.length || !this.model || this.clip) return
    this.outline = new Outline(this.model.mesh.geometry, this.ranges)
    this.scene.add(this.outline.group)
  }

  dispose(): void {
    this.gone = true
    this.stopBlinking()
    this.viewport.remove(this)
    this.onFrame = this.onRest = null
    this.eye.dispose()
    this.outline?.dispose()
    this.rods?.dispose()
    this.marks?.dispose()
    this.model?.dispose()
    this.plate.dispose()
  }
}
