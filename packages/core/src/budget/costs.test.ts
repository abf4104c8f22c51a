import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import type { Target } from '../recipe/target.ts'
import { demoKit, demoTarget, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { estimateFileBytes, overBudget, type Costs } from './costs.ts'
import { reducerReady } from './reduceMesh.ts'

const near = TARGETS[0]!
const within: Costs = { ...near.limits, influences: near.influences }

describe('a budget', () => {
  it('is kept by what is exactly at its limits', () => {
    expect(overBudget(within, near)).toEqual([])
  })

  it.each(['triangles', 'vertices', 'bones', 'drawCalls', 'textureBytes', 'fileBytes'] as const)(
    'tells of %s over its limit, with both numbers and a way out',
    (key) => {
      const problems = overBudget({ ...within, [key]: near.limits[key] + 1 }, near)
      expect(problems).toHaveLength(1)
      expect(problems[0]).toMatchObject({ code: 'over-budget', severity: 'warning', where: `costs/${key}` })
      expect(problems[0]!.message).toContain(String(near.limits[key] + 1))
      expect(problems[0]!.message).toContain(String(near.limits[key]))
      expect(problems[0]!.remedy.length).toBeGreaterThan(10)
    },
  )

  it('tells of too many influences', () => {
    const crowd = TARGETS.find((t) => t.id === 'crowd')!
    expect(overBudget({ ...within, ...crowd.limits, influences: 3 }, crowd).map((p) => p.where)).toEqual([
      'costs/influences',
    ])
  })

  it('has targets that fall from near to far in every limit', () => {
    TARGETS.slice(1).forEach((target, i) => {
      const finer = TARGETS[i]!
      for (const key of Object.keys(target.limits) as (keyof typeof target.limits)[])
        expect(target.limits[key]).toBeLessThanOrEqual(finer.limits[key])
      expect(target.influences).toBeLessThanOrEqual(finer.influences)
      for (const lod of target.lods) expect(lod.triangles).toBeLessThan(target.limits.triangles)
    })
  })
})

describe('the size of a file', () => {
  const shipped = async (
    id: string,
    keepSliders: string[],
    lods: boolean,
    keepClips?: 'all' | string[],
    motion?: Target['motion'],
  ) => {
    const kit = await demoKit('saltwick-folk')
    const kits = new Map([[kit.manifest.id, kit]])
    const target = { ...demoTarget(id), keepSliders, ...(keepClips && { keepClips }), ...(motion && { motion }) }
    const recipe = dressed(kit, 'human', MAREN)
    const { bytes } = await shipFigure(new Builder(kits), kits, recipe, target, { lods })
    const told = new Builder(kits).build(recipe, target, { reduce: true, lods }).figure!.costs.fileBytes
    return { told, bytes: bytes!.length }
  }

  // an eighth: how well clips and the atlas compress differs from figure to figure
  it.each([
    ['near', [], false],
    ['standard', [], false],
    ['crowd', [], false],
    ['crowd', [], true],
    ['near', [], false, 'all'],
    ['crowd', [], false, 'all'],
    ['standard', [], false, ['wave']],
    ['near', [], false, []],
    ['near', [], false, 'all', { tolerance: 0 }],
    ['crowd', [], false, 'all', { tolerance: 0.3 }],
    ['crowd', [], false, 'all', { tolerance: 15 }],
    ['near', [], false, ['walk', 'wave', 'run'], { rate: 15 }],
    ['near', ['belly', 'arms'], false],
    ['near', ['belly', 'arms', 'stature', 'build', 'nose'], true],
  ] as [string, string[], boolean, ('all' | string[])?, Target['motion']?][])(
    'of %s with sliders %j (levels: %s), clips %j, keys %j, is told to an eighth before it is written',
    async (id, keep, lods, clips, motion) => {
      await reducerReady
      const { told, bytes } = await shipped(id, keep, lods, clips, motion)
      expect(Math.abs(told - bytes) / bytes).toBeLessThan(0.125)
    },
  )

  it('grows with everything that is in it', () => {
    const base = { triangles: 1000, vertices: 2000, bones: 22, morphs: 2, moved: 300 }
    for (const key of Object.keys(base) as (keyof typeof base)[])
      expect(estimateFileBytes({ ...base, [key]: base[key] + 10 })).toBeGreaterThan(estimateFileBytes(base))
  })
})
