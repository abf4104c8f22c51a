import type { Limb } from '@idle-tinker/core'
import type { Point, Sculpt } from '../../model/Sculpt.ts'
import { chain } from '../../model/skinning.ts'
import { add, dot, scale, size, sub, type V3 } from '../../model/vector.ts'
import type { PartSpec } from './spec.ts'

/* What hangs and can swing: braids, tails of coats, capes, by bones of their own, that only the finest detail has. */

export interface Strand {
  /** What its limb is called, and its points', see `hung`. */
  id: string
  kind: Extract<Limb['kind'], 'hair' | 'cloth'>
  /** The bone it hangs from. */
  parent: string
  /** Its way, root first. */
  way: readonly V3[]
  /** Where along it its joints are, and over how much to either side one bone gives way to the next. */
  joints: readonly (readonly [at: number, width: number])[]
  /** The bones of the body that move it where it has none of its own; the one it hangs from where left out. */
  folds?: readonly string[]
}

/** Marks points as a strand's, by how far along it they are. */
export function hung(s: Sculpt, { id, way }: Pick<Strand, 'id' | 'way'>, which: (p: Point) => boolean = () => true) {
  for (const p of s.points) if (which(p)) Object.assign(p, { limb: id, u: lengthAlong(way, p.at) })
  return s
}

/** The bones, limbs and skin of a part with strands; all else of it hangs on the body. */
export function strandsOf(strands: readonly Strand[]): Pick<PartSpec, 'bones' | 'limbs' | 'skin'> {
  const named = strands.map((strand) => ({ ...strand, names: strand.joints.map((_, i) => `${strand.id}${i + 1}`) }))
  const root = 'worn'
  return {
    bones: named.flatMap(({ names, parent, folds = [] }) =>
      names.map((name, i) => ({
        ...{ name, parent: i === 0 ? parent : names[i - 1]!, level: 'full' as const },
        ...(folds[i] !== undefined && { fold: folds[i] }),
      })),
    ),
    limbs: named.map(({ id, kind, names }) => ({
      ...{ id, kind, bones: names, channels: [kind], lag: 0.06 },
      ...(/^(left|right)/.test(id) && { side: id.startsWith('left') ? ('left' as const) : ('right' as const) }),
    })),
    skin: {
      bones: [
        { name: root, parent: null, at: [0, 0, 0] },
        ...named.flatMap(({ names, joints, way }) =>
          names.map((name, i) => ({
            ...{ name, parent: i === 0 ? root : names[i - 1]! },
            at: placeAlong(way, joints[i]![0]),
          })),
        ),
      ],
      of: (p) => {
        const strand = named.find(({ id }) => id === p.limb)
        if (!strand) return [[root, 1]]
        return chain(
          p.u,
          root,
          strand.joints.map(([at, width], i) => [at, width, strand.names[i]!] as const),
        )
      },
    },
  }
}

/** The same on the other side. */
export const mirroredStrand = (strand: Strand): Strand => ({
  ...strand,
  id: strand.id.replace(/^left/, 'right'),
  way: strand.way.map(([x, y, z]): V3 => [-x, y, z]),
})

/** How far along a way the place nearest to a point is. */
export function lengthAlong(way: readonly V3[], at: V3): number {
  let [best, nearest, length] = [0, Infinity, 0]
  way.slice(1).forEach((to, i) => {
    const from = way[i]!
    const step = sub(to, from)
    const t = Math.min(1, Math.max(0, dot(sub(at, from), step) / dot(step, step)))
    const away = size(sub(at, add(from, scale(step, t))))
    if (away < nearest) [best, nearest] = [length + t * size(step), away]
    length += size(step)
  })
  return best
}

export function placeAlong(way: readonly V3[], length: number): V3 {
  let left = length
  for (const [i, to] of way.slice(1).entries()) {
    const step = sub(to, way[i]!)
    if (left <= size(step)) return add(way[i]!, scale(step, left / size(step)))
    left -= size(step)
  }
  return way.at(-1)!
}
