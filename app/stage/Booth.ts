import type { Clip } from '@idle-tinker/core'
import { Box3, OrthographicCamera, Scene, Vector3 } from 'three'
import type { FigureView } from '../workers/protocol'
import { FigureModel } from './FigureModel'
import { frameHeight } from './frameHeight'
import { addLight } from './light'
import type { IndexRange } from './Outline'
import { theViewport, type Viewport } from './Viewport'

/** What part of a figure a picture shows. */
export interface Framing {
  /** Turn about the vertical, radians; 0 is the front. */
  turn: number
  /** Box to show, metres; the whole figure if absent. */
  box?: Box3
  /** Stands as at the beginning of this clip. */
  clip?: Clip
  /** Let the arms hang, as people stand; for whole figures. */
  armsDown?: boolean
  /** From the height of its middle, not from above: lengths can be read off. */
  level?: boolean
  /** A rule of one metre stands beside it, where it will be so many times as large; seen level. */
  rule?: { times: number; color: string }
  /** Only these index ranges are drawn. */
  only?: IndexRange[]
}

/** Half of the height that a picture of a box shows, metres. */
export function framedHalf(size: { x: number; y: number; z: number }, turn: number, aspect: number): number {
  const wide = Math.abs(Math.cos(turn)) * size.x + Math.abs(Math.sin(turn)) * size.z
  return Math.max(size.y / 2, wide / 2 / aspect) * 1.08 + 1e-3
}

/** Takes pictures of figures from their real geometry, in the same light as the stage. */
export class Booth {
  private readonly scene = new Scene()
  private readonly camera = new OrthographicCamera()
  private last: FigureModel | null = null

  constructor() {
    addLight(this.scene)
  }

  /** A picture as a canvas of the given size; null while the graphics are away, or where there are none. */
  take(view: FigureView, width: number, height: number, framing: Framing): HTMLCanvasElement | null {
    const viewport = viewportIfAny()
    if (!viewport || viewport.lost) return null
    const model = new FigureModel(view)
    if (framing.only) {
      model.mesh.geometry.clearGroups()
      const index = model.mesh.geometry.index!
      const kept = framing.only.flatMap(({ start, count }) => Array.from(index.array.slice(start, start + count)))
      model.mesh.geometry.setIndex(kept)
    }
    if (framing.clip) model.pose(framing.clip, 0)
    else if (framing.armsDown) lowerArms(model, view)
    const box = framing.box ?? boxOf(model, framing.only !== undefined)
    this.scene.add(model.mesh)
    const center = box.getCenter(new Vector3())
    const size = box.getSize(new Vector3())
    const half = framedHalf(size, framing.turn, width / height)
    frameHeight(this.camera, half, width, height)
    this.camera.position.set(
      center.x + Math.sin(framing.turn) * 6,
      center.y + (framing.level ? 0 : 0.9),
      center.z + Math.cos(framing.turn) * 6,
    )
    this.camera.lookAt(center)
    this.camera.updateProjectionMatrix()
    const canvas = document.createElement('canvas')
    canvas.width = width
    canvas.height = height
    const taken = viewport.take(this.scene, this.camera, canvas)
    if (taken && framing.rule)
      drawRule(canvas, height / (2 * half) / framing.rule.times, center.y / half, framing.rule.color)
    model.mesh.removeFromParent()
    // the one before leaves only now: with the last of its kind the shaders would go, and be made anew for the next
    this.last?.dispose()
    this.last = model
    return taken ? canvas : null
  }
}

/** Ticks of a rule, and how far it stands from the edge of its picture, pixels. */
const RULE = { tick: 6, long: 10, margin: 14 }

/**
 * Draws a rule of one metre, with ten ticks, up from the ground.
 *
 * @param metre pixels of one metre
 * @param above how far the middle of the picture is above the ground, as a share of half its height
 */
function drawRule(canvas: HTMLCanvasElement, metre: number, above: number, color: string): void {
  const ink = canvas.getContext('2d')
  if (!ink) return
  const ground = (canvas.height / 2) * (1 + above)
  const x = RULE.margin + RULE.long
  ink.strokeStyle = ink.fillStyle = color
  ink.lineWidth = 1.5
  ink.beginPath()
  ink.moveTo(x, ground)
  ink.lineTo(x, ground - metre)
  for (let i = 0; i <= 10; i++) {
    const y = ground - (metre * i) / 10
    ink.moveTo(x - (i % 5 === 0 ? RULE.long : RULE.tick), y)
    ink.lineTo(x, y)
  }
  ink.stroke()
  ink.font = '600 12px "Instrument Sans Variable", sans-serif'
  ink.fillText('1 m', x - RULE.long, ground - metre - 6)
}

function viewportIfAny(): Viewport | null {
  try {
    return theViewport()
  } catch {
    // the stage says so; lists do without pictures
    return null
  }
}

/** How far below the horizon hanging arms point, radians. */
const HANGING = (74 * Math.PI) / 180

function lowerArms(model: FigureModel, view: FigureView): void {
  for (const [side, sign] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    const upper = view.bones.findIndex((b) => b.name === `${side}UpperArm`)
    const lower = view.bones.find((b) => b.name === `${side}LowerArm`)
    if (upper < 0 || !lower) continue
    const [x, y] = [0, 1].map((k) => lower.at[k]! - view.bones[upper]!.at[k]!) as [number, number]
    model.bones[upper]!.rotation.z = -sign * Math.max(0, HANGING - Math.atan2(-y, Math.abs(x)))
  }
  model.mesh.updateMatrixWorld(true)
}

function boxOf(model: FigureModel, part: boolean): Box3 {
  if (!part) {
    model.mesh.computeBoundingBox()
    return model.mesh.boundingBox!.clone()
  }
  const box = new Box3()
  const { index } = model.mesh.geometry
  const position = model.mesh.geometry.getAttribute('position')
  const p = new Vector3()
  for (let i = 0; i < index!.count; i++) box.expandByPoint(p.fromBufferAttribute(position, index!.getX(i)))
  return box
}

let booth: Booth | null = null
export function theBooth(): Booth {
  booth ??= new Booth()
  return booth
}
