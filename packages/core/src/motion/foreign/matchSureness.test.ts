import { describe, expect, it } from 'vitest'
import { Builder } from '../../build.ts'
import { newRecipe } from '../../recipe/defaults.ts'
import { clipsOf } from '../../ship/clips.ts'
import { kits, near } from '../../testing/boneless.ts'
import { writeBvh } from '../../testing/bvh.ts'
import { matchMotion } from './matchMotion.ts'
import { matchSureness } from './matchSureness.ts'
import { readMotion } from './readMotion.ts'

/** Bodies with motions of theirs, and what their bones may be called. */
const bodies = (
  [
    ['saltwick-folk', 'human'],
    ['tide-creatures', 'ottern'],
    ['tide-creatures', 'lampstrider'],
    ['tide-creatures', 'gulper'],
  ] as const
).map(([kit, body]) => {
  const recipe = newRecipe(kits.get(kit)!, body, body)
  const figure = new Builder(kits).build(recipe, near).figure!
  const { plan } = kits.get(kit)!.bodies.get(body)!
  return { body, plan, skeleton: figure.skeleton, clip: clipsOf(figure, kits, recipe)[1]! }
})
const ALL = [...new Set(bodies.flatMap(({ skeleton }) => skeleton.bones.map((b) => b.name)))]
const nameless = (b: string) => `joint ${ALL.indexOf(b)}`
const NAMES: Record<string, (b: string) => string | null> = {
  here: (b) => b,
  legs: (b) => b.replace('UpperLeg', 'Thigh').replace('LowerLeg', 'Shin').replace('UpperArm', 'UpArm'),
  none: nameless,
  some: (b) => (ALL.indexOf(b) % 2 ? nameless(b) : b),
  others: (b) => (ALL.indexOf(b) % 3 ? nameless(b) : b),
  few: (b) => (/Toes|Proximal|Intermediate|Distal|Metacarpal|Eye|jaw|upperChest/.test(b) ? null : nameless(b)),
  // in which an upper leg is called a knee, and an elbow a hand
  wrong: (b) => b.replace('UpperLeg', 'Knee').replace('LowerArm', 'Hand2'),
}

describe('how sure a match is', () => {
  it('is as often right as it says, and surer of what is right', async () => {
    const told: { sure: number; right: boolean }[] = []
    for (const { plan, skeleton, clip } of bodies)
      for (const nameOf of Object.values(NAMES)) {
        const text = writeBvh(clip, skeleton, { nameOf, rate: 10 })
        const motion = (await readMotion(new TextEncoder().encode(text), 'take.bvh')).value![0]!
        const { value } = matchMotion(motion, plan)
        if (!value) continue
        // what a person may have got wrong: each bone of a limb on the joint above, and on the one below
        const names = motion.joints.filter((j) => !j.end).map((j) => j.name)
        for (const limb of plan.limbs.filter((l) => l.kind === 'leg' || l.kind === 'arm'))
          for (const bone of limb.bones.slice(0, 3)) {
            const was = value.match.bones[bone]
            if (was === undefined) continue
            const at = motion.joints.findIndex((j) => j.name === was)
            const parent = motion.joints[motion.joints[at]!.parent]?.name
            const child = motion.joints.find((j) => j.parent === at && !j.end)?.name
            for (const other of [parent, child]) {
              if (!other || !names.includes(other)) continue
              const bad = matchSureness(
                motion,
                { ...value.match, bones: { ...value.match.bones, [bone]: other } },
                plan,
              )
              told.push({ sure: bad.get(bone)!, right: false })
            }
          }
        const sure = matchSureness(motion, value.match, plan)
        for (const [bone, joint] of Object.entries(value.match.bones)) {
          expect(sure.get(bone), bone).toBeGreaterThanOrEqual(0)
          told.push({ sure: sure.get(bone)!, right: nameOf(bone) === joint })
        }
      }
    expect(told.length).toBeGreaterThan(1000)
    const mean = (list: readonly { sure: number; right: boolean }[]) => ({
      said: list.reduce((s, t) => s + t.sure, 0) / list.length,
      was: list.filter((t) => t.right).length / list.length,
      of: list.length,
    })
    const bands = [
      [0, 0.2],
      [0.2, 0.7],
      [0.7, 0.9],
      [0.9, 1.01],
    ].map(([from, to]) => mean(told.filter((t) => t.sure >= from! && t.sure < to!)))
    console.log(bands.map((b) => `said ${b.said.toFixed(2)}, was ${b.was.toFixed(2)} of ${b.of}`).join('; '))
    // every other one was put wrong: what is said is as often right, to a sixth
    for (const { said, was, of } of bands) {
      expect(of).toBeGreaterThan(40)
      expect(Math.abs(said - was)).toBeLessThan(0.17)
    }
  })

  it('falls where a person points at the wrong joint', async () => {
    const { plan, skeleton, clip } = bodies[0]!
    const motion = (await readMotion(new TextEncoder().encode(writeBvh(clip, skeleton)), 'take.bvh')).value![0]!
    const { match } = matchMotion(motion, plan).value!
    const right = matchSureness(motion, match, plan)
    const bones = { ...match.bones, leftLowerLeg: 'leftFoot', head: 'hips' }
    const wrong = matchSureness(motion, { ...match, bones }, plan)
    expect(right.get('leftLowerLeg')).toBeGreaterThan(0.9)
    expect(wrong.get('leftLowerLeg')).toBeLessThan(0.2)
    expect(wrong.get('head')).toBeLessThan(right.get('head')!)
  })
})
