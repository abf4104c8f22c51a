import { stud } from '../../model/garment.ts'
import { tube } from '../../model/Sculpt.ts'
import { along, bump } from '../../model/vector.ts'
import { isArm, turnedOver, cuffs, collar, shirt } from './cut.ts'
import { garment, type PartSpec } from './spec.ts'

const TOPS: PartSpec[] = [
  garment('shirt-work', 'Work shirt', 'top', 3, 4, undefined, (d) => {
    const s = shirt(d, 7, 'shirt', 0.55)
    cuffs(
      s,
      [
        [0.45, 0.1],
        [-0.25, 1.5],
      ],
      'shirt',
    )
    collar(
      s,
      true,
      [
        [1.7, 0.3],
        [-1.3, 0.95],
      ],
      'shirt',
      0.3,
    )
    s.thicken(0.3, 'shirt', (f) => f.tag === 'collar')
    for (const y of [74, 67]) s.merge(stud(d.front(0, y, 0.55), [0, 0.1, 1], 0.45, 0.25, 'trim'))
    return s
  }),
  garment('shirt-rolled', 'Rolled shirt', 'top', 3, 4, undefined, (d) => {
    const s = shirt(d, 3, 'shirt', 0.6)
    cuffs(
      s,
      [
        [0.9, 0.2],
        [0.2, -2.2],
        [-0.9, -0.2],
      ],
      'shirt',
    )
    collar(
      s,
      true,
      [
        [1.2, 0.4],
        [-0.4, 1.7],
        [-1.6, 0.6],
      ],
      'shirt',
      1.0,
    )
    return s.thicken(0.3, 'shirt', turnedOver)
  }),
  garment('jersey', 'Knit jersey', 'top', 3, 5, undefined, (d) => {
    const s = shirt(d, 7, 'knit', 0.95)
    cuffs(
      s,
      [
        [0.5, 0],
        [0.1, 1.6],
        [-0.7, 0.1],
      ],
      'knit-trim',
    )
    collar(
      s,
      true,
      [
        [1.0, 0.5],
        [2.4, -0.1],
        [-0.6, 0.9],
        [-1.4, 0.3],
      ],
      'knit-trim',
    )
    for (const f of s.faces) if (f.tag === 'torso' && f.row === 4) f.region = 'knit-trim'
    return s.thicken(0.35, 'knit-trim', (f) => f.tag === 'collar')
  }),
  garment('bodice', 'Laced bodice', 'top', 3, 4, undefined, (d) => {
    const s = shirt(d, 2, 'shirt', 0.75)
    for (const p of s.points) if (isArm(p)) p.at = along(p.at, p.out, 0.7 * bump(p.u, 4.5, 5))
    cuffs(
      s,
      [
        [-0.4, 0.6],
        [0.8, 0.8],
        [-0.4, 0.1],
      ],
      'shirt',
    )
    for (const f of s.faces) if (f.tag === 'torso' && f.row >= 1 && f.row <= 4) f.region = 'bodice'
    s.thicken(0.3, 'shirt', turnedOver)
    const front = [69, 66, 63, 60, 57, 54].map((y) => y)
    front.slice(0, -1).forEach((y, i) => {
      const y2 = front[i + 1]!
      s.merge(tube([d.front(-1.3, y, 1.1), d.front(1.3, y2, 1.1)], 0.26, 4, 'rope'))
      s.merge(tube([d.front(1.3, y, 1.1), d.front(-1.3, y2, 1.1)], 0.26, 4, 'rope'))
    })
    return s
  }),
]

export default TOPS
