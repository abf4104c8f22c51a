import { type Mesh, MOUSE, PerspectiveCamera, Plane, Raycaster, Spherical, Vector2, Vector3 } from 'three'
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js'

/** Vertical angle of view, degrees, and the tangent of its half. */
const VIEW = 28
const TAN = Math.tan((VIEW * Math.PI) / 360)

/** Where something in the scene is on the screen. */
export interface Projected {
  /** Pixels of the canvas's own layout. */
  x: number
  y: number
  /** How a way of one metre runs on the screen, pixels. */
  dx: number
  dy: number
  /** The way leads away from the eye. */
  behind: boolean
}

/** The eye that looks at the stage: turned, moved and brought nearer by hand, by keys, and to named places. */
export class StageCamera {
  readonly camera = new PerspectiveCamera(VIEW, 1, 0.05, 60)
  private readonly canvas: HTMLCanvasElement
  private readonly controls: OrbitControls
  private readonly offset = new Vector3()
  private readonly polar = new Spherical()
  private readonly a = new Vector3()
  private readonly b = new Vector3()

  /** @param onChange called when what is seen has changed */
  constructor(canvas: HTMLCanvasElement, onChange: () => void) {
    this.canvas = canvas
    this.controls = new OrbitControls(this.camera, canvas)
    this.controls.zoomToCursor = true
    this.controls.minDistance = 0.35
    this.controls.maxDistance = 14
    this.controls.maxPolarAngle = Math.PI * 0.62
    this.controls.addEventListener('change', onChange)
  }

  setShape(width: number, height: number): void {
    this.camera.aspect = width / height
    this.camera.updateProjectionMatrix()
  }

  /** While on, dragging slides the view instead of turning it. */
  slide(on: boolean): void {
    this.controls.mouseButtons.LEFT = on ? MOUSE.PAN : MOUSE.ROTATE
  }

  /** Turns about what is looked at: to the side and upwards, radians. */
  turnBy(side: number, up: number): void {
    const { camera, controls, offset, polar } = this
    polar.setFromVector3(offset.subVectors(camera.position, controls.target))
    polar.theta += side
    polar.phi = Math.min(controls.maxPolarAngle, Math.max(0.01, polar.phi - up))
    camera.position.setFromSpherical(polar).add(controls.target)
    controls.update()
  }

  /** Slides what is looked at, as shares of the height that is seen there. */
  slideBy(right: number, up: number): void {
    const { camera, controls, offset, a, b } = this
    const height = 2 * TAN * camera.position.distanceTo(controls.target)
    a.setFromMatrixColumn(camera.matrix, 0).multiplyScalar(right * height)
    b.setFromMatrixColumn(camera.matrix, 1).multiplyScalar(up * height)
    offset.addVectors(a, b)
    camera.position.add(offset)
    controls.target.add(offset)
    controls.update()
  }

  /** Nearer by a factor above 1, farther by one below. */
  nearer(factor: number): void {
    const { camera, controls, offset } = this
    offset.subVectors(camera.position, controls.target)
    const distance = Math.min(controls.maxDistance, Math.max(controls.minDistance, offset.length() / factor))
    camera.position.copy(controls.target).add(offset.setLength(distance))
    controls.update()
  }

  /** Looks at a place so that so much height and width of it is seen; from a turn about the vertical and from above, radians. */
  aim(target: Vector3, height: number, turn: number, above: number, width = 0): void {
    const distance = Math.max(height, width / this.camera.aspect) / 2 / TAN
    this.controls.target.copy(target)
    this.camera.position.set(
      target.x + Math.sin(turn) * Math.cos(above) * distance,
      target.y + Math.sin(above) * distance,
      target.z + Math.cos(turn) * Math.cos(above) * distance,
    )
    this.controls.update()
  }

  /** Takes on the view of another. */
  lookLike({ camera, controls }: StageCamera): void {
    if (this.camera.position.equals(camera.position) && this.controls.target.equals(controls.target)) return
    this.camera.position.copy(camera.position)
    this.controls.target.copy(controls.target)
    this.controls.update()
  }

  /** From where it looks now, radians about the vertical. */
  get turn(): number {
    const { position } = this.camera
    return Math.atan2(position.x - this.controls.target.x, position.z - this.controls.target.z)
  }

  /** Right, up and towards the eye, each of length one. */
  sides(): Record<'right' | 'up' | 'towards', [number, number, number]> {
    const column = (i: number) => new Vector3().setFromMatrixColumn(this.camera.matrix, i).toArray()
    return { right: column(0), up: column(1), towards: column(2) }
  }

  /** Index of the first triangle of a mesh under a place on the screen, client coordinates; null if there is none. */
  triangleAt(mesh: Mesh, x: number, y: number): number | null {
    return this.rayAt(x, y).intersectObject(mesh, false)[0]?.faceIndex ?? null
  }

  /** All a ray through a place on the screen meets, the nearest first, client coordinates. */
  hitsAt(mesh: Mesh, x: number, y: number): { triangle: number; at: [number, number, number] }[] {
    return this.rayAt(x, y)
      .intersectObject(mesh, false)
      .map(({ faceIndex, point }) => ({ triangle: faceIndex!, at: point.toArray() }))
  }

  /** The place under the pointer, client coordinates, on a plane that faces the camera so far before a place, metres. */
  placeBefore(from: Vector3, before: number, x: number, y: number): Vector3 | null {
    const towards = this.camera.position.clone().sub(from).normalize()
    const plane = new Plane().setFromNormalAndCoplanarPoint(towards, from.clone().addScaledVector(towards, before))
    return this.rayAt(x, y).ray.intersectPlane(plane, new Vector3())
  }

  /** How long a length at a place looks, pixels. */
  pixelsOf(length: number, at: Vector3): number {
    return (length / (2 * TAN * this.camera.position.distanceTo(at))) * this.canvas.clientHeight
  }

  private rayAt(x: number, y: number): Raycaster {
    const box = this.canvas.getBoundingClientRect()
    const ray = new Raycaster()
    ray.setFromCamera(
      new Vector2(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2),
      this.camera,
    )
    return ray
  }

  /** Where a place and a way from it are on the screen. */
  project(at: readonly [number, number, number], direction: readonly [number, number, number]): Projected {
    const { a, b, offset, camera } = this
    const { clientWidth: w, clientHeight: h } = this.canvas
    a.set(...at)
    offset.set(...direction).normalize()
    b.subVectors(camera.position, a).normalize()
    const behind = offset.dot(b) < -0.75
    b.copy(a).addScaledVector(offset, 0.1)
    a.project(camera)
    b.project(camera)
    return {
      x: ((a.x + 1) / 2) * w,
      y: ((1 - a.y) / 2) * h,
      dx: ((b.x - a.x) / 2) * w * 10,
      dy: ((a.y - b.y) / 2) * h * 10,
      behind,
    }
  }

  dispose(): void {
    this.controls.dispose()
  }
}
