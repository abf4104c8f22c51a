import { decode, encode } from 'fast-png'
import { beforeAll, expect, it } from 'vitest'
import {
  buildPackage,
  loadProver,
  newPicks,
  newTarget,
  readKit,
  type BuiltPackage,
  type Kit,
  type Picks,
  type Target,
} from '@idle-tinker/core'
import { glbFaults } from '../../core/src/testing/glbFaults.ts'
import { meadowKit, trappingsKit } from '../../core/src/testing/meadowKit.ts'
import { Assembly, DressedFigure, settle, startLook, Wardrobe, weightsOf } from './index.ts'
import { manifestOf, readerOf } from './testing/smallPackage.ts'

/*
 * A goat of the tests' own kit, on a plan of its own, in a rug of another kit that is painted with a picture: nothing of it is
 * of the demo.
 */
const RED = [200, 0, 0]
const BLUE = [0, 0, 200]
/** Left half red, right half blue. */
const picture = (side: number) =>
  new Uint8Array(
    encode({
      ...{ width: side, height: side, channels: 4, depth: 8 },
      data: Uint8Array.from({ length: side * side * 4 }, (_, i) => {
        const [r, , b] = Math.floor(i / 4) % side < side / 2 ? RED : BLUE
        return [r!, 0, b!, 255][i % 4]!
      }),
    }),
  )

const kits = new Map<string, Kit>()
const prover = await loadProver()
let picks: Picks
const target: Target = {
  ...newTarget('meadow', 'Meadow'),
  ...{ atlas: 128, lods: [{ triangles: 1000 }] },
  limits: { ...newTarget('a', 'A').limits, triangles: 2000 },
}
const built = async (own = picks, to = target) => buildPackage(own, kits, to, { prover })

beforeAll(async () => {
  for (const files of [await meadowKit(), await trappingsKit(picture(32))]) {
    const { value } = await readKit(files)
    kits.set(value!.manifest.id, value!)
  }
  picks = newPicks(kits, { kit: 'meadow', id: 'goat' }, { id: 'herd', name: 'The herd' })
  // the rug is dyed as a whole
  picks.bodies[0]!.colors.weave = { swatches: ['#ffffff', '#808080'], start: '#ffffff' }
})

const rugOf = ({ manifest }: BuiltPackage) => manifest.bodies[0]!.options.find((o) => o.id === 'trappings/rug')!

it('dresses any body of any plan, and shows what is painted where it is painted', async () => {
  const { value, problems } = await built()
  expect(problems).toEqual([])
  for (const [path, bytes] of value!.files)
    if (path.endsWith('.glb')) expect([path, await glbFaults(bytes)]).toEqual([path, []])
  const rug = rugOf(value!)
  const { wardrobe } = await Wardrobe.open(readerOf(value!.files))
  const body = wardrobe!.manifest.bodies[0]!
  const slot = body.slots[rug.slot]!.id
  const open = await wardrobe!.openBody(body)
  const { pieces, look } = await wardrobe!.fit(open, { ...startLook(body), parts: { [slot]: rug.id } })
  const assembly = new Assembly(body)
  assembly.dress([open.piece, ...pieces], 0)
  assembly.paintLook(look)
  assembly.shape(weightsOf(body, look))

  const { data, width } = decode(value!.files.get(body.atlas.path)!)
  expect(body.atlas.smooth).toBe(true)
  const run = assembly.runs.find((r) => r.option === body.options.findIndex((o) => o.id === rug.id))!
  const painted = body.regions.findIndex((r) => r.picture)
  const [piece] = pieces.filter((p) => p.option === run.option)
  const seen = { red: 0, blue: 0, other: 0 }
  for (let i = run.from; i < run.to; i++) {
    const corner = assembly.mesh.index[i]!
    const [u, v] = [assembly.mesh.uv[corner * 2]!, assembly.mesh.uv[corner * 2 + 1]!]
    const [x, y, w, h] = body.regions[painted]!.picture!
    if (u < x - 1e-4 || u > x + w + 1e-4 || v < y - 1e-4 || v > y + h + 1e-4) continue
    const at = (Math.min(width - 1, Math.floor(v * width)) * width + Math.min(width - 1, Math.floor(u * width))) * 4
    if (data[at]! > 150 && data[at + 2]! < 60) seen.red++
    else if (data[at + 2]! > 150 && data[at]! < 60) seen.blue++
    else seen.other++
  }
  expect(piece!.regions.includes(painted)).toBe(true)
  // both halves are on it; where they meet the atlas has a mean
  expect(Math.min(seen.red, seen.blue)).toBeGreaterThan(10)
  expect(seen.other).toBeLessThan((seen.red + seen.blue) * 0.2)

  // the swatch is multiplied in: half as much in sRGB is a fifth of the light
  const light = () => {
    let sum = 0
    for (let i = run.from; i < run.to; i++) sum += assembly.mesh.color[assembly.mesh.index[i]! * 3]!
    return sum
  }
  const before = light()
  assembly.paintLook(settle(body, { ...look, colors: { weave: '#808080' } }).look)
  expect(light() / before).toBeCloseTo(0.216, 1)
})

it('walks on four legs', async () => {
  const { value } = await built()
  const { wardrobe } = await Wardrobe.open(readerOf(value!.files))
  const { figure } = await DressedFigure.open(wardrobe!, 'goat')
  const clip = manifestOf(value!).bodies[0]!.clips[0]!
  expect([clip.id, figure!.play(clip.id)]).toEqual(['trot', true])
  const hips = figure!.object.getObjectByName('croup')!
  const turns = Array.from({ length: 8 }, () => {
    figure!.update(clip.duration / 8)
    return figure!.object.getObjectByName('withers')!.quaternion.toArray().join() + hips.position.y
  })
  expect(new Set(turns).size).toBeGreaterThan(3)
  figure!.dispose()
})

it('says so where pictures have no room, a model cannot be read, or something is named that is not there', async () => {
  const small = await built(picks, { ...target, atlas: 64 })
  // a picture is made smaller before it is refused
  expect(small.problems).toEqual([])
  const many = structuredClone(picks)
  // so many swatches that they leave nothing for the picture, and more than there is room for
  for (const length of [15, 30]) {
    const swatches = Array.from({ length }, (_, i) => `#${(i * 4099).toString(16).padStart(6, '0')}`)
    many.bodies[0]!.colors.wool = { swatches, start: swatches[0]! }
    const full = await built(many, { ...target, atlas: 64 })
    expect([length, full.value, full.problems.map((p) => p.code)]).toEqual([length, null, ['atlas-full']])
  }

  const meadow = kits.get('meadow')!
  const trappings = kits.get('trappings')!
  const codes = async () => {
    const { value, problems } = await built()
    return [value, problems.map((p) => [p.code, p.message])]
  }
  // the manifest names them, and their files could not be read
  kits.set('trappings', { ...trappings, parts: new Map() })
  expect(await codes()).toEqual([
    null,
    expect.arrayContaining([['model-unread', expect.stringContaining('trappings/rug')]]),
  ])
  kits.set('trappings', trappings)
  kits.set('meadow', { ...meadow, bodies: new Map() })
  expect(await codes()).toEqual([null, [['model-unread', expect.stringContaining('meadow/goat')]]])
  kits.set('meadow', meadow)

  const stray = structuredClone(picks)
  const [pick] = stray.bodies
  pick!.springs = { wing: { stiffness: 1, drag: 0.5, gravity: 0.1 } }
  pick!.looks = [{ id: 'one', name: 'One', parts: { saddle: 'gone' } }]
  const told = await built(stray)
  expect(told.problems.map((p) => [p.code, p.severity])).toEqual([
    ['spring-unknown', 'warning'],
    ['part-unknown', 'warning'],
  ])
  expect(told.value!.manifest.bodies[0]!.looks[0]!.look.parts).not.toHaveProperty('saddle')
  const twice = structuredClone(picks)
  twice.bodies[0]!.sliders.push(twice.bodies[0]!.sliders[0]!)
  expect((await built(twice)).problems.map((p) => p.code)).toEqual(['slider-twice'])
})
