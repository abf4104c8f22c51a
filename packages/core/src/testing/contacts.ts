import { Vector3 } from 'three'
import type { ClipDef } from '../kit/schema.ts'
import type { Drawn, ShippedClip, ShippedFile } from '../ship/ShippedFile.ts'

/** Between two samples of the clip lie four of these. */
const FRAMES = 120
/** A vertex this near the ground touches it, metres. */
const TOUCHES = 0.005

export interface Contact {
  /** The lowest any vertex comes, metres. */
  lowest: number
  /** How far what touches the ground moves over it while one foot stands, both feet's worse, metres. */
  slide: number
  /** How far a vertex that touches all the time strays from its mean, metres. */
  strays: number
}

/** How far the ground goes back in a loop, from the file's own joints and the clip's definition. */
function travelOf(file: ShippedFile, first: Drawn, def: ClipDef): number {
  const world = file.at().world
  const joint = (name: string) => {
    const node = file.jointsOf(first.skin!).find((j) => file.nodes[j]!.name === name)!
    return new Vector3().setFromMatrixPosition(world[node]!)
  }
  const [hip, knee, ankle] = ['leftUpperLeg', 'leftLowerLeg', 'leftFoot'].map(joint) as [Vector3, Vector3, Vector3]
  return def.travel * (hip.distanceTo(knee) + knee.distanceTo(ankle))
}

/** How a clip of a shipped figure meets the ground, on the file's own vertices. */
export function measure(file: ShippedFile, clip: ShippedClip, def: ClipDef): Contact {
  const first = file.drawn()[0]!
  const pace = travelOf(file, first, def) / FRAMES
  const frames = Array.from({ length: FRAMES + 1 }, (_, i) =>
    file.posed(first, file.at({ clip, time: Math.min(clip.duration, (clip.duration * i) / FRAMES) })),
  )
  let lowest = Infinity
  for (const p of frames) for (let i = 1; i < p.length; i += 3) if (p[i]! < lowest) lowest = p[i]!
  let slide = 0
  for (const side of [1, -1]) {
    let way = 0
    for (let n = 0; n < FRAMES; n++) {
      const [a, b] = [frames[n]!, frames[n + 1]!]
      const mean = new Vector3()
      let count = 0
      for (let i = 0; i < a.length; i += 3) {
        if (first.positions[i]! * side <= 0 || a[i + 1]! > TOUCHES || b[i + 1]! > TOUCHES) continue
        mean.x += b[i]! - a[i]!
        mean.z += b[i + 2]! - a[i + 2]! + pace
        count++
      }
      if (count) way += mean.length() / count
    }
    slide = Math.max(slide, way)
  }
  let strays = 0
  for (let i = 0; i < first.positions.length; i += 3) {
    if (frames.some((p) => p[i + 1]! > TOUCHES)) continue
    const middle = [0, 2].map((k) => frames.reduce((s, p) => s + p[i + k]!, 0) / frames.length)
    for (const p of frames) strays = Math.max(strays, Math.hypot(p[i]! - middle[0]!, p[i + 2]! - middle[1]!))
  }
  return { lowest, slide, strays }
}
