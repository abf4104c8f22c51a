import { OrthographicCamera, Vector3, type Scene } from 'three'
import type { FigureView } from '../workers/protocol'
import { frameHeight } from './frameHeight'
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
  height: number,
  targets: Partial<Record<LookFrom, HTMLCanvasElement>>,
): void {
  const head = view.landmarks.head ?? [0, height * 0.85, 0]
  const crown = view.landmarks.crown ?? [0, height, 0]
  for (const [name, canvas] of Object.entries(targets) as [LookFrom, HTMLCanvasElement][]) {
    const { width: w, height: h } = canvas
    const face = name === 'face'
    const half = face ? Math.max((crown[1] - head[1]) * 0.74, headWidth(view) * 0.62 * (h / w)) : height * 0.54
    const center = face
      ? new Vector3(head[0], (head[1] + crown[1]) / 2, head[2])
      : new Vector3(0, height * 0.5, name === 'side' ? -height * 0.03 : 0)
    frameHeight(camera, half, w, h)
    camera.position.set(center.x + Math.sin(TURNS[name]) * 5, center.y, center.z + Math.cos(TURNS[name]) * 5)
    camera.lookAt(center)
    camera.updateProjectionMatrix()
    viewport.take(scene, camera, canvas)
  }
}

/** How wide the body's own head is, metres; hats and hair left out. */
function headWidth({ mesh, pieces, landmarks }: FigureView): number {
  const body = pieces[0]
  let widest = 0
  for (let i = body?.start ?? 0; i < (body ? body.start + body.count : 0); i++) {
    const o = mesh.indices[i]! * 3
    if (mesh.positions[o + 1]! > (landmarks.head?.[1] ?? 0)) widest = Math.max(widest, Math.abs(mesh.positions[o]!))
  }
  return widest * 2
}
