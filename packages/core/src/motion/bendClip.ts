import { turnOf, type Bend } from '../rig/bending.ts'
import type { Bone } from '../rig/Skeleton.ts'
import type { Clip } from './Clip.ts'

/** A clip in which one joint bends and comes back, again and again. */
export function bendClip(bones: readonly Pick<Bone, 'name' | 'at'>[], bone: number, bend: Bend): Clip {
  const SAMPLES = 24
  const times = Float32Array.from({ length: SAMPLES + 1 }, (_, i) => (i / SAMPLES) * 2)
  const turns = new Float32Array(times.length * 4)
  const root = new Float32Array(times.length * 3)
  times.forEach((_, i) => {
    const share = (1 - Math.cos((i / SAMPLES) * 2 * Math.PI)) / 2
    turnOf({ ...bend, degrees: bend.degrees * share }).toArray(turns, i * 4)
    root.set(bones[0]!.at, i * 3)
  })
  return {
    id: `bend ${bones[bone]!.name}`,
    name: 'Bend',
    duration: 2,
    loop: true,
    travel: 0,
    times,
    rotations: bones.map((_, b) => (b === bone ? turns : null)),
    root,
  }
}
