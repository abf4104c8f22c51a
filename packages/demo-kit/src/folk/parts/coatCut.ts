import { surfaceOf } from '../../model/bake.ts'
import { bands, stud, type Dummy } from '../../model/garment.ts'
import { Sculpt } from '../../model/Sculpt.ts'
import { add, bump, type V3 } from '../../model/vector.ts'
import { isArm, turnedOver, cuffs, skirt, closeFront, collar } from './cut.ts'
import { garment, type PartSpec } from './spec.ts'

/** What is worn over all else; bibs and braces lie flat beneath it. */
export const outerwear = (
  id: string,
  name: string,
  layer: number,
  clearance: number,
  binds: string[] | undefined,
  make: PartSpec['make'],
  extra: Pick<PartSpec, 'excludes'> & { tags?: string[] } = {},
) => garment(id, name, 'over', layer, clearance, binds, make, { presses: ['legs', 'top'], ...extra })

export interface CoatSpec {
  region: string
  lining: string
  trim: string
  fit: number
  armTo: number
  opening: (y: number) => number
  /** Its rings below the waist; behind alone where it is cut away in front. */
  skirt: { y: number; w: number; front: number; back: number; pleat?: number }[]
  cuff: readonly (readonly [number, number])[]
  collar: readonly (readonly [number, number])[]
  /** How much lower each step of the collar is in front. */
  collarDrop?: number
  /** Rows of a lapel from the neck down: height and width beyond the opening's edge. */
  lapel?: readonly (readonly [y: number, width: number])[]
  thick?: number
  /** Its skirt hangs behind alone, from as many columns on either side of the middle. */
  tails?: number
}

/** An open coat: torso and sleeves off the body, a skirt of rings, collar, turned-back cuffs, lined. */
export function coat(d: Dummy, spec: CoatSpec): Sculpt {
  const front = (f: { tag: string; col: number }) => (f.tag === 'torso' || f.tag === 'neck') && f.col === 0
  const keep = bands({ torso: [1, 6], neck: [0, 0], arm: [0, spec.armTo] })
  const s = d.wear(
    (f) => keep(f) && !front(f),
    spec.region,
    (p) => (isArm(p) ? spec.fit * 0.85 : spec.fit + 0.35 * bump(p.u, 52, 5)),
  )
  closeFront(s, d, spec.opening, spec.fit + 0.1)
  const hem = s.ring('torso', 1)
  const middle = (hem.length - 1) / 2
  const hangs = hem.filter((_, i) => spec.tails === undefined || Math.abs(i - middle) <= spec.tails)
  skirt(s, hangs, false, spec.skirt, spec.region)
  for (const f of s.faces)
    if (f.tag === 'skirt' && f.v.some((p) => s.at(p)[1] <= spec.skirt[spec.skirt.length - 1]!.y + 0.1)) f.row = 99
  collar(s, false, spec.collar, spec.trim, spec.collarDrop)
  cuffs(s, spec.cuff, spec.trim)
  // beside the opening the lining shows as well
  s.thicken(spec.thick ?? 0.5, spec.lining, (f) => turnedOver(f) || f.col === 0)
  if (spec.lapel) s.merge(lapels(s, spec, spec.lapel))
  return s
}

/** The edges of an opening turned back over the chest: facings that lie on the coat itself. */
function lapels(s: Sculpt, spec: CoatSpec, rows: readonly (readonly [number, number])[]): Sculpt {
  const cloth = surfaceOf(s)
  const on = (x: number, y: number, lift: number): V3 => {
    const hit = cloth.castRay(x, y, 60, 0, 0, -1, 0, 120)
    return [x, y, (hit === Infinity ? 0 : 60 - hit) + lift]
  }
  const grid = rows.map(([y, width]) => {
    const x = spec.opening(y) + 0.2
    const edge = on(x, y, 0.9)
    return [add(edge, [-0.55, 0, 0]), on(x + width * 0.5, y, 1.45), on(x + width, y, 1.2)]
  })
  const half = new Sculpt()
  half.region = spec.lining
  half.tag = 'lapel'
  const lines = grid.map((row) => row.map((p) => half.add(p)))
  for (let r = 0; r + 1 < lines.length; r++) half.loft(lines[r]!, lines[r + 1]!, false, { row: r })
  // an edge all round; its back lies on the coat and is never seen
  return half.thicken(0.4, spec.lining, () => false).both()
}

/** Buttons in pairs along the front of a coat. */
export function buttons(s: Sculpt, d: Dummy, x: number, heights: readonly number[], lift: number): void {
  for (const y of heights) s.merge(stud(d.front(x, y, lift), [0.25, 0, 1], 0.62, 0.45, 'metal').both())
}
