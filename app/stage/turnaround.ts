import { OrthographicCamera, Vector3, type Box3, type Scene } from 'three'
import type { FigureView } from '../workers/protocol'
import { frameHeight } from './frameHeight'
import { headOf, reachAcross, type Posed } from './headOf'
import type { Viewport } from './Viewport'

export type LookFrom = 'front' | 'side' | 'back' | 'face'

/** Turn about the vertical for each named view, radians; the face is seen from near. */
export const TURNS: Record<LookFrom, number> = { front: 0, side: Math.PI / 2, back: Math.PI, face: 0.35 }

const camera = new OrthographicCamera()

/** Draws a figure from named sides into canvases, as large as each is. */
export function drawTurnaround(
  viewport: Viewport,
  scene: Scene,
  view: FigureView,
  box: Box3,
  targets: Partial<Record<LookFrom, HTMLCanvasElement>>,
  posed?: Posed,
): void {
  const height = box.max.y
  const head = headOf(view, height, posed)
  for (const [name, canvas] of Object.entries(targets) as [LookFrom, HTMLCanvasElement][]) {
    const { width: w, height: h } = canvas
    const face = name === 'face'
    const center = face ? head.middle : new Vector3(0, height * 0.5, (box.min.z + box.max.z) / 2)
    const half = face
      ? Math.max((head.high - head.low) * 0.74, head.width * 0.62 * (h / w))
      : Math.max(height * 0.54, reachAcross(box, center, TURNS[name]) * 1.05 * (h / w))
    frameHeight(camera, half, w, h)
    camera.position.set(center.x + Math.sin(TURNS[name]) * 5, center.y, center.z + Math.cos(TURNS[name]) * 5)
    camera.lookAt(center)
    camera.updateProjectionMatrix()
    viewport.take(scene, camera, canvas)
  }
}
