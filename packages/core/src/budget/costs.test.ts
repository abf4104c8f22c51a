import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { TARGETS } from '../recipe/defaults.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { demoKit, dressed, MAREN } from '../testing/demoKits.ts'
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
      for (const lod of target.lods) expect(lod).toBeLessThan(target.limits.triangles)
    })
  })
})

describe('the size of a file', () => {
  it('is estimated to within a fifth before it is written', async () => {
    await reducerReady
    const kit = await demoKit('saltwick-folk')
    const kits = new Map([[kit.manifest.id, kit]])
    for (const id of ['near', 'standard', 'crowd']) {
      const target = TARGETS.find((t) => t.id === id)!
      const { bytes, figure } = await shipFigure(new Builder(kits), kits, dressed(kit, 'human', MAREN), target, {
        lods: false,
      })
      const guess = estimateFileBytes({
        triangles: figure!.mesh.indices.length / 3,
        vertices: figure!.mesh.cornerPoints.length,
        bones: figure!.skeleton.bones.length,
      })
      expect(Math.abs(guess - bytes!.length) / bytes!.length).toBeLessThan(0.2)
    }
  })

  it('grows with everything that is in it', () => {
    const base = { triangles: 1000, vertices: 2000, bones: 22 }
    for (const more of [{ triangles: 1100 }, { vertices: 2100 }, { bones: 30 }])
      expect(estimateFileBytes({ ...base, ...more })).toBeGreaterThan(estimateFileBytes(base))
  })
})
