import type { FigureView } from '../workers/protocol'
import { theBooth } from './Booth'
import { isRight } from './BoneRods'

/** A small front view with the bones drawn over it; the left side filled, the right side hollow. */
export function drawSkeleton(view: FigureView, width: number, height: number): string {
  const scale = 2
  const [w, h] = [width * scale, height * scale]
  const canvas = document.createElement('canvas')
  canvas.width = w
  canvas.height = h
  const context = canvas.getContext('2d')!
  context.globalAlpha = 0.38
  const figure = theBooth().take(view, w, h, { turn: 0 })
  if (figure) context.drawImage(figure, 0, 0)
  context.globalAlpha = 1
  // the booth frames the whole figure from slightly above; bones are laid over the same box
  const ys = view.mesh.positions.filter((_, i) => i % 3 === 1)
  const top = ys.reduce((m, v) => Math.max(m, v), 0)
  const xs = view.mesh.positions.filter((_, i) => i % 3 === 0).reduce((m, v) => Math.max(m, Math.abs(v)), 0)
  const half = Math.max(top / 2, xs * (h / w)) * 1.08
  const place = ([x, y]: readonly number[]) =>
    [w / 2 + (x! / half) * (h / 2), h / 2 - ((y! - top / 2) / half) * (h / 2)] as const
  context.strokeStyle = context.fillStyle = '#b87f14'
  context.lineWidth = 2
  for (const bone of view.bones) {
    const [x, y] = place(bone.at)
    if (bone.parent >= 0) {
      const [px, py] = place(view.bones[bone.parent]!.at)
      context.beginPath()
      context.moveTo(px, py)
      context.lineTo(x, y)
      context.stroke()
    }
    context.beginPath()
    context.arc(x, y, 3.4, 0, 7)
    if (isRight(bone.name)) {
      context.fillStyle = '#fffdf7'
      context.fill()
      context.stroke()
    } else {
      context.fillStyle = '#b87f14'
      context.fill()
    }
  }
  return canvas.toDataURL()
}
