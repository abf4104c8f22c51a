import { beforeAll, describe, expect, it } from 'vitest'
import {
  Builder,
  createRandom,
  newRecipe,
  newTarget,
  reducerReady,
  shipFigure,
  type BuildOptions,
  type Figure,
  type Recipe,
} from '@idle-tinker/core'
import { ShippedFile } from '../../core/src/ship/ShippedFile.ts'
import { demoKit, wear } from '../../core/src/testing/demoKits.ts'

/*
 * Parts that take the place of a part of the body, against what they are joined to: edges of triangles by where
 * their ends are, nothing that the joining itself works with.
 */

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((kit) => [kit.manifest.id, kit]))
const target = { ...newTarget('any', 'Any'), detail: 'near' as const, lods: [] }
beforeAll(() => reducerReady)

const REPLACING = [folk, tide].flatMap((kit) =>
  [...kit.parts.values()]
    .filter((p) => p.def.how === 'replaces')
    .map(({ def }) => {
      const [body, from] = def.bodies[0]!.split('/').toReversed() as [string, string?]
      return { kit, body, home: from === undefined ? kit : kits.get(from)!, id: def.id }
    }),
)

function wearing({ kit, body, home, id }: (typeof REPLACING)[number], sliders: Recipe['sliders'] = {}): Recipe {
  return { ...wear(newRecipe(home, body, id), kit, id), sliders }
}

/** Places to a hundredth of a millimetre: what is farther apart than that is not one place. */
const place = (positions: ArrayLike<number>, p: number) =>
  [0, 1, 2].map((k) => Math.round(positions[p * 3 + k]! * 1e5)).join(' ')

/** Edges with a triangle on one side only: from place to place, as the triangle runs. */
function openEdges({ mesh }: Pick<Figure, 'mesh'>, [from, to]: readonly [number, number]): Set<string> {
  const edges = new Set<string>()
  for (let t = from; t < to; t++) {
    const at = [0, 1, 2].map((k) => place(mesh.positions, mesh.cornerPoints[mesh.indices[t * 3 + k]!]!))
    at.forEach((a, k) => {
      const [edge, back] = [`${a} → ${at[(k + 1) % 3]}`, `${at[(k + 1) % 3]} → ${a}`]
      if (!edges.delete(back)) edges.add(edge)
    })
  }
  return edges
}

const builder = new Builder(kits)

function built(recipe: Recipe, options: BuildOptions = {}, limit = 20_000): Figure {
  const limits = { ...target.limits, triangles: limit }
  const { figure, problems } = builder.build(recipe, { ...target, limits }, options)
  expect(problems.filter((p) => p.severity === 'error' || p.code === 'seam-apart')).toEqual([])
  return figure!
}

/** What of the body is open where it is whole: a mouth, say. */
function openOnTheWhole(recipe: Recipe): number {
  const figure = built({ ...recipe, parts: [] })
  return openEdges(figure, figure.pieces[0]!.triangles).size
}

/** The edges at which the body ends, and those of the part that lie against them. */
function atTheSeam(figure: Figure, id: string) {
  const part = figure.pieces.find((p) => p.id === id)!
  const body = [...openEdges(figure, figure.pieces[0]!.triangles)]
  const own = openEdges(figure, part.triangles)
  const met = body.filter((edge) => own.has(edge.split(' → ').toReversed().join(' → ')))
  return { body, met }
}

/** Lengths of the edges that lead from the seam into a part, by their points. */
function besideTheSeam({ mesh, pieces }: Figure, id: string): Map<string, number> {
  const [from, to] = pieces.find((p) => p.id === id)!.triangles
  const onBody = (p: number) => p < pieces[0]!.points[1]
  const out = new Map<string, number>()
  for (let t = from; t < to; t++)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [k, (k + 1) % 3].map((i) => mesh.cornerPoints[mesh.indices[t * 3 + i]!]!) as [number, number]
      if (onBody(a) === onBody(b)) continue
      const across = [0, 1, 2].map((c) => mesh.positions[a * 3 + c]! - mesh.positions[b * 3 + c]!)
      out.set(`${a} ${b}`, Math.hypot(...across))
    }
  return out
}

/** Values of all sliders at random: mostly at one of their ends. */
function anyShape(body: string, home: typeof folk, seed: number): Recipe['sliders'] {
  const random = createRandom(seed)
  return Object.fromEntries(
    home.bodies
      .get(body)!
      .def.sliders.filter(() => random.next() < 0.7)
      .map((s) => [s.id, random.next() < 0.5 ? s.min : random.next() < 0.6 ? s.max : random.next() * 2 - 1]),
  )
}

describe('a part that replaces something', () => {
  it('is there for heads, hands, lower legs and tails, of the own kit and of the other', () => {
    expect(REPLACING.map((r) => `${r.home.manifest.id}/${r.body} ${r.id}`)).toEqual([
      'saltwick-folk/human peg-leg',
      'saltwick-folk/human peg-leg-right',
      'saltwick-folk/human hook-left',
      'saltwick-folk/human hook-right',
      'tide-creatures/ottern tail-paddle',
      'saltwick-folk/human head-ottern',
      'saltwick-folk/human tail-ottern',
      'saltwick-folk/human diving-helmet',
    ])
  })

  it.each(REPLACING)('$id meets the body edge for edge: no gap, no T-junction, in 63 shapes', (replacing) => {
    const { body, home, id } = replacing
    const open = openOnTheWhole(newRecipe(home, body, 'whole'))
    const loop = home.bodies.get(body)!.def.seams.find((s) => s.id === seamOf(replacing))!.points.length
    // 8 parts × 63 shapes: over 500 figures
    for (let seed = 0; seed < 63; seed++) {
      const { met, body: ends } = atTheSeam(built(wearing(replacing, seed ? anyShape(body, home, seed) : {})), id)
      expect(`${seed}: ${met.length}`).toBe(`${seed}: ${loop}`)
      // nothing else of the body was torn open; what was replaced may have had openings of its own
      expect(ends.length - loop).toBeLessThanOrEqual(open)
    }
  })

  it.each(REPLACING)('$id goes along with the seam: what lies next to it is not drawn out', (replacing) => {
    const { body, home, id } = replacing
    const rest = besideTheSeam(built(wearing(replacing)), id)
    expect(rest.size).toBeGreaterThan(20)
    let most = 1
    for (let seed = 1; seed < 40; seed++)
      for (const [edge, length] of besideTheSeam(built(wearing(replacing, anyShape(body, home, seed))), id))
        most = Math.max(most, length / rest.get(edge)!)
    // the longest is 1.7, of a helmet on the stoutest neck; what stays behind is drawn out to 3.5
    expect(most).toBeLessThan(2)
  })

  it.each(REPLACING)('$id still does with a fifth of the triangles gone', (replacing) => {
    const { body, home, id } = replacing
    for (let seed = 1; seed < 6; seed++) {
      const recipe = wearing(replacing, anyShape(body, home, seed))
      const whole = built(recipe)
      const around = new Set(atTheSeam(whole, id).met.flatMap((e) => e.split(' → ')))
      const limit = Math.round(whole.costs.triangles * 0.8)
      const figure = built(recipe, { reduce: true }, limit)
      // not yet so few that what nobody sees is left out, which opens the mesh on purpose
      expect([figure.costs.triangles <= limit, figure.doubleSided]).toEqual([true, false])
      const used = new Set(
        [...figure.mesh.indices].map((c) => place(figure.mesh.positions, figure.mesh.cornerPoints[c]!)),
      )
      expect([...around].filter((p) => used.has(p)).length).toBeGreaterThanOrEqual(3)
      const open = openEdges(figure, [0, figure.mesh.indices.length / 3])
      expect([...open].filter((e) => e.split(' → ').every((p) => around.has(p)))).toEqual([])
    }
  })

  it.each(REPLACING)('$id is one surface with the body in the file that ships', async (replacing) => {
    const { body, home } = replacing
    const recipe = wearing(replacing)
    const { bytes } = await shipFigure(builder, kits, recipe, target, { lods: false })
    const file = new ShippedFile(bytes!)
    const drawn = file.drawn()[0]!
    const lift = built(recipe).lift
    const names = new Map<string, number>()
    for (let v = 0; v < drawn.positions.length / 3; v++) names.set(place(drawn.positions, v), v)
    const edges = new Set<string>()
    for (let t = 0; t < drawn.triangles.length; t += 3)
      for (let k = 0; k < 3; k++)
        edges.add([k, (k + 1) % 3].map((i) => place(drawn.positions, drawn.triangles[t + i]!)).join(' → '))
    const points = home.bodies.get(body)!.def.seams.find((s) => s.id === seamOf(replacing))!.points
    const there = points.map(([x, y, z]) => nearest(drawn.positions, [x, y + lift, z]))
    // kits write places to a hundredth of a millimetre
    expect(Math.max(...there.map((t) => t.far))).toBeLessThan(5e-5)
    there.forEach(({ at }, i) => {
      const next = there[(i + 1) % there.length]!.at
      expect([edges.has(`${at} → ${next}`), edges.has(`${next} → ${at}`)]).toEqual([true, true])
    })
  })
})

describe('an ottern’s head on a person', () => {
  const headed = REPLACING.find((r) => r.id === 'head-ottern')!
  /** The middle of all that is of a color, metres. */
  const middle = (figure: Figure, region: string) => {
    const { mesh } = figure
    const corners = [...mesh.regions.keys()].filter((c) => mesh.regionNames[mesh.regions[c]!] === region)
    return [0, 1, 2].map(
      (k) => corners.reduce((s, c) => s + mesh.positions[mesh.cornerPoints[c]! * 3 + k]!, 0) / corners.length,
    )
  }
  const moved = (sliders: Recipe['sliders'], region: string) => {
    const [rest, now] = [{}, sliders].map((of) => middle(built(wearing(headed, of)), region))
    return now!.map((v, k) => (v - rest![k]!) * 1000)
  }

  it('shuts its eyes and looks aside with the person’s lids and looks', () => {
    // an eye is 4 cm high: what sees goes down with the lid that shuts before it
    expect(moved({ blink: 1 }, 'iris')[1]).toBeLessThan(-8)
    const [left] = moved({ 'gaze-side': 1 }, 'iris')
    const [right] = moved({ 'gaze-side': -1 }, 'iris')
    expect(left).toBeGreaterThan(2)
    expect(right).toBeLessThan(-2)
  })

  it('is still where the person’s mouth speaks beneath it', () => {
    for (const movement of ['jaw-open', 'pucker', 'smile', 'sneer'])
      expect(Math.hypot(...moved({ [movement]: 1 }, 'nose')), movement).toBeLessThan(0.2)
  })
})

function seamOf({ kit, id }: (typeof REPLACING)[number]): string {
  const { def } = kit.parts.get(id)!
  return def.how === 'replaces' ? def.seam : ''
}

function nearest(positions: ArrayLike<number>, [x, y, z]: readonly [number, number, number]) {
  let best = { far: Infinity, at: '' }
  for (let p = 0; p < positions.length / 3; p++) {
    const far = Math.hypot(positions[p * 3]! - x, positions[p * 3 + 1]! - y, positions[p * 3 + 2]! - z)
    if (far < best.far) best = { far, at: place(positions, p) }
  }
  return best
}
