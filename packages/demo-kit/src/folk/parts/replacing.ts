import { Sculpt, tube, type Chain } from '../../model/Sculpt.ts'
import { flipX, type V3 } from '../../model/vector.ts'
import type { Dummy } from '../../model/garment.ts'
import { onArm } from '../hand.ts'
import { WRIST } from '../proportions.ts'
import type { PartSpec } from './spec.ts'

type Side = 'left' | 'right'

/** A thing made for the left side, on the side that is wanted. */
const onSide = (side: Side, s: Sculpt): Sculpt => (side === 'left' ? s : s.move(flipX).flip())

/** Quads from ring to ring, as the body's own run. */
const band = (s: Sculpt, a: Chain, b: Chain, region: string) =>
  a.forEach((p, i) => s.face([p, a[(i + 1) % a.length]!, b[(i + 1) % b.length]!, b[i]!], { region }))

/** A wooden leg from the knee down: it starts on the seam's own points. */
function pegLeg(side: Side): PartSpec {
  return {
    id: side === 'left' ? 'peg-leg' : 'peg-leg-right',
    name: side === 'left' ? 'Peg leg' : 'Peg leg, right',
    slot: `${side}-leg`,
    how: 'replaces',
    seam: `${side}Knee`,
    tags: ['rare', 'distinctive'],
    excludes: ['whole-leg'],
    make: (d) => {
      const shin = d.sculpt.peel((f) => f.tag === 'leftLeg' && f.row >= 4)
      const s = new Sculpt()
      s.region = 'leather'
      const top = shin.rims().find((r) => r.every((i) => shin.at(i)[1] > 20))!
      const seam = top.map((i) => s.add(shin.at(i)))
      const ring = (y: number, k: number, z: number) =>
        seam.map((p) => {
          const at = s.at(p)
          return s.add([7 + (at[0] - 6.8) * k, y + (at[1] - 26) * 0.2, z + (at[2] - 0.4) * k])
        })
      const cup = [ring(23.4, 1.12, 0.3), ring(17.5, 0.98, 0), ring(16.6, 0.6, 0)]
      band(s, seam, cup[0]!, 'leather')
      band(s, cup[0]!, cup[1]!, 'leather')
      band(s, cup[1]!, cup[2]!, 'metal')
      const peg = [ring(15.8, 0.5, 0), ring(4, 0.36, 0), ring(1.2, 0.42, 0), ring(0, 0.42, 0)]
      band(s, cup[2]!, peg[0]!, 'wood')
      band(s, peg[0]!, peg[1]!, 'wood')
      band(s, peg[1]!, peg[2]!, 'metal')
      band(s, peg[2]!, peg[3]!, 'metal')
      s.as({ region: 'metal' }, () => s.cap(peg[3]!))
      return onSide(side, s)
    },
  }
}

/** A cup over the wrist and a hook of iron. */
function hook(side: Side): PartSpec {
  return {
    id: `hook-${side}`,
    name: side === 'left' ? 'Hook, left' : 'Hook, right',
    slot: `other-${side}-hand`,
    how: 'replaces',
    seam: `${side}Wrist`,
    fit: 'shape',
    tags: ['rare', 'distinctive'],
    covers: [`${side}-hand`, 'hands'],
    make: (d: Dummy) => {
      const hand = d.sculpt.peel((f) => f.tag === 'leftHand')
      const wrist = hand.rims()[0]!
      const s = new Sculpt()
      const seam = wrist.map((i) => s.add(hand.at(i)))
      const ring = (u: number, k: number) =>
        seam.map((p) => {
          const from = onArm(WRIST, 0, 0)
          const to = onArm(u, 0, -0.3)
          const at = s.at(p)
          return s.add([0, 1, 2].map((i) => to[i]! + (at[i]! - from[i]!) * k) as unknown as V3)
        })
      const cup = [ring(WRIST + 0.4, 1.3), ring(WRIST + 4.2, 1.36), ring(WRIST + 5.2, 1.1), ring(WRIST + 5.6, 0.5)]
      band(s, seam, cup[0]!, 'leather')
      band(s, cup[0]!, cup[1]!, 'leather')
      band(s, cup[1]!, cup[2]!, 'metal')
      band(s, cup[2]!, cup[3]!, 'metal')
      s.as({ region: 'metal' }, () => s.cap([...cup[3]!]))
      const bend: V3[] = [
        [WRIST + 4.6, -0.3],
        [WRIST + 8.4, -0.3],
      ].map(([u, f]) => onArm(u!, 0, f!))
      // the point turns forward and back up
      for (let k = 1; k <= 6; k++) {
        const a = (Math.PI * 1.28 * k) / 6
        bend.push(onArm(WRIST + 8.4 + 3.1 * Math.sin(a), 0, -0.3 + 3.1 * (1 - Math.cos(a))))
      }
      s.merge(tube(bend, [0.95, 0.95, 0.95, 0.9, 0.85, 0.75, 0.5, 0], 6, 'metal'))
      return onSide(side, s)
    },
  }
}

const REPLACING: PartSpec[] = [pegLeg('left'), pegLeg('right'), hook('left'), hook('right')]

export default REPLACING
