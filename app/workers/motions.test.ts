import { describe, expect, it } from 'vitest'
import {
  Builder,
  newRecipe,
  newTarget,
  readMotionDocument,
  setPart,
  partReference,
  type Motion,
} from '@idle-tinker/core'
import { clipsOf } from '../../packages/core/src/ship/clips.ts'
import { ShippedFile } from '../../packages/core/src/ship/ShippedFile.ts'
import { writeBvh } from '../../packages/core/src/testing/bvh.ts'
import { demoKit } from '../../packages/core/src/testing/demoKits.ts'
import { bringMotions, carryKept, shipMotions } from './motions.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const builder = new Builder(kits)
const target = { ...newTarget('any', 'Any'), detail: 'near' as const }
const maren = setPart(newRecipe(folk, 'human', 'Maren'), 'over', partReference(folk, 'coat-quay'))
const figure = builder.build(maren, target).figure!
const walk = clipsOf(figure, kits, maren).find((c) => c.id === 'walk')!
const bytes = new TextEncoder().encode(writeBvh(walk, figure.skeleton, { loops: 2 }))
const codes = ({ problems }: { problems: readonly { code: string }[] }) => problems.map((p) => p.code)

describe('a motion that is brought in', () => {
  it('is kept with its bones; of a skeleton that is known with those that are known', async () => {
    const { motions, problems } = await bringMotions(kits, 'walk.bvh', bytes, new Map(), maren, [])
    expect(problems).toEqual([])
    const [motion] = motions as [Motion]
    expect(readMotionDocument(motion).value).toEqual(motion)
    expect([motion.name, Object.keys(motion.match!.bones).length]).toEqual(['walk', 42])
    const { leftToes: _, ...bones } = motion.match!.bones
    const other = { ...motion.match!, skeleton: '0'.repeat(64) }
    const again = await bringMotions(kits, 'again.bvh', bytes, new Map(), maren, [other, { ...motion.match!, bones }])
    expect(Object.keys(again.motions[0]!.match!.bones)).not.toContain('leftToes')
    expect(codes(await bringMotions(kits, 'odd.bvh', bytes.subarray(0, 40), new Map(), maren, []))).toEqual([
      'bvh-foreign',
    ])
  })

  it('becomes a clip of whoever can play it, goes round or along as was said, and ships', async () => {
    const [motion] = (await bringMotions(kits, 'walk.bvh', bytes, new Map(), maren, [])).motions as [Motion]
    const goes = (change: Partial<Motion>) => carryKept(builder, kits, maren, target, { ...motion, ...change }).carried!
    expect([goes({}).clip.loop, goes({ loop: 'once' }).clip.loop]).toEqual([true, false])
    expect(goes({}).numbers.depth.most).toBeLessThan(0.005)
    const gulper = newRecipe(tide, 'gulper', 'Tick')
    const none = carryKept(builder, kits, gulper, target, motion)
    expect([none.carried, codes(none)]).toEqual([null, ['match-none']])
    const wayOf = async (travels: boolean) => {
      const made = await shipMotions(builder, kits, maren, target, [{ ...motion, loop: 'once', travels }])
      const file = new ShippedFile(made.bytes!)
      const root = file.clips()[0]!.channels.find((c) => c.path === 'translation')!.values
      return Math.hypot(root.at(-3)! - root[0]!, root.at(-1)! - root[2]!)
    }
    expect(await wayOf(true)).toBeGreaterThan(1.5)
    expect(await wayOf(false)).toBeLessThan(0.2)
  })
})
