import { Sculpt } from '../../model/Sculpt.ts'
import type { PartSpec } from './spec.ts'

const REPLACING: PartSpec[] = [
  {
    id: 'peg-leg',
    name: 'Peg leg',
    slot: 'left-leg',
    how: 'replaces',
    seam: 'leftKnee',
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
      const band = (a: number[], b: number[], region: string) =>
        a.forEach((p, i) => s.face([p, a[(i + 1) % a.length]!, b[(i + 1) % a.length]!, b[i]!], { region }))
      band(seam, cup[0]!, 'leather')
      band(cup[0]!, cup[1]!, 'leather')
      band(cup[1]!, cup[2]!, 'metal')
      const peg = [ring(15.8, 0.5, 0), ring(4, 0.36, 0), ring(1.2, 0.42, 0), ring(0, 0.42, 0)]
      band(cup[2]!, peg[0]!, 'wood')
      band(peg[0]!, peg[1]!, 'wood')
      band(peg[1]!, peg[2]!, 'metal')
      band(peg[2]!, peg[3]!, 'metal')
      s.as({ region: 'metal' }, () => s.cap(peg[3]!))
      return s
    },
  },
]

export default REPLACING
