import { lathe, Sculpt } from '../model/Sculpt.ts'
import { add, along, cross, scale, unit, type V3 } from '../model/vector.ts'

/** One barnacle: a cone with a crater, standing on a place of the skin. */
function barnacle(at: V3, out: V3, r: number): Sculpt {
  const cone = lathe(
    [
      [-0.35 * r, r * 1.05],
      [r * 0.62, r * 0.66],
      [r * 0.85, r * 0.48],
      [r * 0.5, r * 0.26],
    ],
    6,
    'barnacle',
  )
  const y = unit(out)
  const x = unit(cross(y, Math.abs(y[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0]))
  const z = cross(x, y)
  return cone.move((p) => add(along(at, y, p[1]), add(scale(x, p[0]), scale(z, p[2])))).outward()
}

/** Barnacles on the skin, each in a direction and of a size. */
export function barnacles(
  places: readonly (readonly [direction: V3, r: number])[],
  onSkin: (direction: V3) => { at: V3; out: V3 },
): Sculpt {
  const s = new Sculpt()
  for (const [direction, r] of places) {
    const { at, out } = onSkin(direction)
    s.merge(barnacle(at, out, r))
  }
  return s
}
