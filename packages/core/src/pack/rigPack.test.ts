import { describe, expect, it } from 'vitest'
import { newRecipe } from '../recipe/defaults.ts'
import { shuffleAll } from '../recipe/shuffle.ts'
import { createRandom } from '../recipe/random.ts'
import { BLOCKS, blockFigure } from '../testing/blockFigure.ts'
import { spent } from '../testing/spent.ts'
import type { Pack, PackPiece } from './Pack.ts'
import { rigPack, surveyFigure } from './rigPack.ts'
import { alone, builder, demo, errors, folk, kits, mean, meshOf, near, piece, seen, tide } from '../testing/boneless.ts'
import { oneIn } from '../testing/thorough.ts'

const PEOPLE = ['maren-quill', 'odd-pellow', 'old-berrit', 'tamsin-reke', 'isolde-fenn', 'brother-eel', 'sister-sedge']

describe('a mesh without bones', () => {
  it('has its joints found on every dressed figure of the demo, in coats and skirts, with and without tails', async () => {
    const means: number[] = []
    for (const id of PEOPLE) {
      const { pack, joints } = await meshOf(demo(id))
      const { survey } = seen(pack)
      expect(survey!.placing, id).toMatchObject({ up: 'y', front: 'z', unit: 'm' })
      const off = errors(survey!, joints)
      means.push(mean(off.values()))
      // a tenth of the height is as far as any joint may be off: then it lies in another limb
      for (const [landmark, error] of off) expect(error, `${id} ${landmark}`).toBeLessThan(0.1)
    }
    console.log(`joints off: ${means.map((m) => (m * 100).toFixed(1)).join(', ')} % of height`)
    // what studies of others reached on arms half lowered is 3 %, on skirts and round bodies 6 %
    expect(mean(means)).toBeLessThan(0.03)
    expect(Math.max(...means)).toBeLessThan(0.045)
  })

  it('has them found with level and with hanging arms', async () => {
    for (const [slope, limit] of [
      [0, 0.04],
      [75, 0.05],
    ] as const) {
      const means: number[] = []
      for (const id of ['odd-pellow', 'old-berrit', 'tamsin-reke', 'sister-sedge']) {
        const { pack, joints } = await meshOf(demo(id), slope)
        const { survey } = seen(pack)
        means.push(mean(errors(survey!, joints).values()))
      }
      console.log(`arms at ${slope}°: ${means.map((m) => (m * 100).toFixed(1)).join(', ')} % of height`)
      expect(mean(means), `${slope}`).toBeLessThan(limit)
    }
  })

  it('has them found on figures that shuffling dressed, however their arms are', async () => {
    const means: number[] = []
    for (const [kit, body] of [
      [folk, 'human'],
      [tide, 'ottern'],
    ] as const)
      for (const seed of oneIn(3, [8, 15, 22, 29])) {
        const recipe = shuffleAll(newRecipe(kit, body, 'Anybody'), kits, seed)
        const figure = builder.build(recipe, near).figure!
        for (const slope of [null, 0, 75]) {
          const { pack, joints } = await meshOf(figure, slope)
          const { survey } = seen(pack)
          expect(survey!.placing, `${body} ${seed}`).toMatchObject({ up: 'y', front: 'z' })
          means.push(mean(errors(survey!, joints).values()))
        }
      }
    console.log(
      `shuffled: mean ${(mean(means) * 100).toFixed(1)}, worst ${(Math.max(...means) * 100).toFixed(1)} % of height`,
    )
    // measured 2.7 and 5.2 when this was written; studies of others: 3 to 6
    expect(mean(means)).toBeLessThan(0.032)
    expect(Math.max(...means)).toBeLessThan(0.065)
  })

  it.each(Object.keys(BLOCKS))('has them found in somebody of blocks that nothing was tuned on: %s', (name) => {
    const { piece: blocks, joints } = blockFigure(BLOCKS[name]!)
    const { survey } = seen(alone(blocks), { unit: 'm' })
    expect(survey!.placing).toMatchObject({ up: 'y', front: 'z' })
    expect(survey!.build).toBe('biped')
    expect(mean(errors(survey!, joints).values())).toBeLessThan(0.06)
  })

  it('is found to lie on its back in centimetres; and lies as a person says', async () => {
    const { pack, joints } = await meshOf(demo('odd-pellow'), null, true)
    const { survey } = seen(pack)
    expect(survey!.placing).toMatchObject({ up: 'z', front: '-y', unit: 'cm' })
    expect(mean(errors(survey!, joints).values())).toBeLessThan(0.035)
    expect(seen(pack, { up: 'z', front: 'y' }).survey!.placing).toMatchObject({
      up: 'z',
      front: 'y',
      sure: { up: 1, front: 1 },
    })
    // in front of itself nothing can be
    expect(seen(pack, { up: 'z', front: '-z' }).survey!.placing.front).toBe('-y')
  })

  it('is seen whatever its triangles are like: inside out, in loose pieces, doubled', () => {
    const { piece: blocks, joints } = blockFigure(BLOCKS.heavy!)
    const usual = mean(errors(seen(alone(blocks), { unit: 'm' }).survey!, joints).values())
    const corners = [...blocks.triangles]
    const spoiled: Record<string, number[]> = {
      'inside out': corners.toReversed(),
      'half turned': corners.map((_, i) => corners[i < corners.length / 2 ? i : i - (i % 3) + (2 - (i % 3))]!),
      doubled: [...corners, ...corners],
      'with holes': corners.filter((_, i) => Math.floor(i / 3) % 23 !== 4),
    }
    for (const [what, triangles] of Object.entries(spoiled)) {
      const { survey } = seen(piece(blocks.positions, triangles), { unit: 'm' })
      expect(mean(errors(survey!, joints).values()), what).toBeLessThan(usual + 0.03)
    }
    // every triangle with corners of its own, and forty specks on it
    const loose = corners.flatMap((v) => [...blocks.positions.subarray(v * 3, v * 3 + 3)])
    const random = createRandom(5)
    for (let i = 0; i < 45; i++) {
      const [x, y] = [random.between(-0.1, 0.1), random.between(0.7, 1.1)]
      loose.push(x, y, 0.17, x + 0.01, y, 0.17, x, y + 0.01, 0.17)
    }
    const { survey } = seen(piece(loose, [...Array(loose.length / 3).keys()]), { unit: 'm' })
    expect(mean(errors(survey!, joints).values())).toBeLessThan(usual + 0.03)
  })

  it('is refused in words where there is nothing to stand on two legs', () => {
    expect(seen({ joints: [], pieces: [] }).codes).toEqual(['rig-empty'])
    expect(seen(piece([0, 0, 0, 1, 0, 0, 0, 1, 0], [0, 1, 2])).codes).toEqual(['rig-flat'])
    const cube = blockFigure({ ...BLOCKS.tall! }).piece
    const box = piece(cube.positions.slice(0, 24), cube.triangles.slice(0, 36))
    const long = piece(
      cube.positions.slice(0, 24).map((v, i) => (i % 3 === 2 ? v * 12 : v)),
      cube.triangles.slice(0, 36),
    )
    expect(seen(long, { up: 'y' }).codes).toEqual(['rig-plan'])
    // a post may be a robe: it is told that its legs are not seen
    expect(seen(box).codes).toContain('rig-robed')
  })

  it('is seen on the ground it stands on, and with a speck far off, which are left out and told', () => {
    const { piece: blocks, joints } = blockFigure(BLOCKS.heavy!)
    const n = blocks.positions.length / 3
    const usual = mean(errors(seen(alone(blocks)).survey!, joints).values())
    const more: Record<string, [number[], number[]]> = {
      ground: [
        [-6, 0, -6, 6, 0, -6, 6, 0, 6, -6, 0, 6],
        [0, 2, 1, 0, 3, 2],
      ],
      speck: [
        [400, 0, 0, 400.01, 0, 0, 400, 0.01, 0],
        [0, 1, 2],
      ],
    }
    for (const [what, [places, corners]] of Object.entries(more)) {
      const both = piece([...blocks.positions, ...places], [...blocks.triangles, ...corners.map((v) => v + n)])
      const { survey, codes } = seen(both)
      expect(codes, what).toEqual(['rig-aside'])
      expect(mean(errors(survey!, joints).values()), what).toBeLessThan(usual + 0.01)
      expect(rigPack(survey!).pack.pieces[0]!.triangles, what).toHaveLength(blocks.triangles.length)
    }
    // what was scaled away is told
    expect(
      seen(
        piece(
          blocks.positions.map((v) => v * 1e-4),
          blocks.triangles,
        ),
      ).codes,
    ).toContain('rig-size')
  })

  it('of thousands of loose cards takes no longer than they are many', () => {
    const { piece: blocks } = blockFigure(BLOCKS.tall!)
    const time = (cards: number) => {
      const [places, corners] = [[...blocks.positions], [...blocks.triangles]]
      for (let i = 0; i < cards; i++) {
        const [x, y, z] = [Math.sin(i) * 0.1, 1 + Math.cos(i * 1.7) * 0.3, 0.2 + (i % 97) * 1e-4]
        corners.push(...[0, 1, 2].map((k) => places.length / 3 + k))
        places.push(x, y, z, x + 0.004, y, z, x, y + 0.004, z)
      }
      return spent(() => expect(seen(piece(places, corners)).survey).not.toBeNull())
    }
    time(500)
    // every card against every other took 27 seconds of 16,000, sixteen times as long as of 4,000
    expect(time(16_000)).toBeLessThan(6 * time(4000))
  })

  it('with two figures in it says so', () => {
    const { positions, triangles } = blockFigure(BLOCKS.thin!).piece
    const beside = positions.map((v, i) => (i % 3 === 0 ? v + 2 : v))
    const both = piece([...positions, ...beside], [...triangles, ...triangles.map((v) => v + positions.length / 3)])
    expect(seen(both).codes).toContain('rig-several')
  })

  it('of 10,000 triangles takes no longer than of 1,000: what counts is how finely it is looked at', () => {
    const { piece: blocks } = blockFigure(BLOCKS.tall!)
    const time = (pack: Pack) => spent(() => surveyFigure(pack))
    const fine = subdivided(subdivided(subdivided(blocks)))
    expect(fine.triangles.length / 3).toBeGreaterThan(10_000)
    time(alone(blocks))
    // what grows with triangles would be 64 times
    expect(time(alone(fine))).toBeLessThan(3 * time(alone(blocks)) + 0.5)
  })
})

function subdivided({ positions, triangles, ...rest }: PackPiece): PackPiece {
  const points = [...positions]
  const faces: number[] = []
  const middles = new Map<string, number>()
  const middle = (a: number, b: number) => {
    const key = [Math.min(a, b), Math.max(a, b)].join()
    if (!middles.has(key)) {
      middles.set(key, points.length / 3)
      for (let k = 0; k < 3; k++) points.push((points[a * 3 + k]! + points[b * 3 + k]!) / 2)
    }
    return middles.get(key)!
  }
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!]
    const [ab, bc, ca] = [middle(a, b), middle(b, c), middle(c, a)]
    faces.push(a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca)
  }
  return {
    ...rest,
    positions: Float32Array.from(points),
    triangles: Uint32Array.from(faces),
    materialOf: new Uint16Array(faces.length / 3),
  }
}
