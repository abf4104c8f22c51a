import { execFile } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { promisify } from 'node:util'
import { afterAll, expect, it } from 'vitest'
import { checkShipped, readPicks, type Picks, type Target } from '@idle-tinker/core'
import { glbFaults } from '../../core/src/testing/glbFaults.ts'
import { KITS_FOLDER } from '../../core/src/testing/demoKits.ts'
import { tinker } from './testing/tinker.ts'

const folder = mkdtempSync(join(tmpdir(), 'tinker-picks-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const slot = (id: string, parts: string[], needed: boolean) => ({
  ...{ slot: id, needed, start: needed ? parts[0]! : null },
  parts: parts.map((part) => ({ part })),
})
const PICKS: Picks = {
  ...{ format: 'idle-tinker-picks', version: 1, id: 'quay', name: 'On the quay' },
  bodies: [
    {
      ...{ id: 'human', name: 'Docker', body: { kit: 'saltwick-folk', kitVersion: '2.10.0', id: 'human' } },
      slots: [
        slot('eyes', ['eyes-bright', 'eyes-open'], true),
        slot('top', ['shirt-work', 'jersey'], true),
        slot('over', ['waistcoat', 'jacket-short'], false),
        slot('hat', ['cap-knit'], false),
      ],
      ...{ sliders: [], colors: {}, expressions: [], rules: [], covered: ['torso'] },
    },
  ],
}

async function prove(change: (p: Picks) => void, ...args: string[]) {
  const own = structuredClone(PICKS)
  change(own)
  const file = join(folder, 'quay.picks.json')
  writeFileSync(file, JSON.stringify(own))
  return tinker('picks', 'prove', file, ...args)
}

it('proves a package, and says what is wrong with one', async () => {
  const sound = await prove(() => undefined, '--json')
  expect([sound.code, sound.err]).toEqual([0, ''])
  const [triangles, bones] = sound.out
    .split('\n')
    .map((line) => JSON.parse(line) as { least: number; most: number; worn: string[] })
  expect(triangles!.least).toBeLessThan(triangles!.most)
  expect(triangles!.worn).toContain('saltwick-folk/cap-knit')
  // no part brings bones: there are as many whatever is chosen
  expect(bones!.least).toBe(bones!.most)

  const near = JSON.parse(readFileSync(join(KITS_FOLDER, 'lantern-tide', 'near.target.json'), 'utf8')) as Target
  const limits = { ...near.limits, triangles: triangles!.most - 1, bones: 200 }
  const tight = join(folder, 'tight.target.json')
  writeFileSync(tight, JSON.stringify({ ...near, limits }))
  const over = await prove(() => undefined, '--target', tight)
  expect(over).toMatchObject({ code: 1, err: expect.stringContaining(`${triangles!.most} triangles`) as string })
  expect(over.err).toMatch(/Every choice fits without saltwick-folk\/[a-z-]+: nothing fewer would do/)
  writeFileSync(tight, JSON.stringify({ ...near, limits: { ...limits, triangles: triangles!.least + 20 } }))
  const heavy = await prove(() => undefined, '--target', tight)
  expect(heavy.err).toContain('With “saltwick-folk/jacket-short” there are')

  const bare = await prove((p) => (p.bodies[0]!.slots[1] = slot('top', ['shirt-work'], false)))
  expect(bare).toMatchObject({ code: 1, err: expect.stringContaining('of “torso” bare') as string })
  const never = await prove((p) =>
    p.bodies[0]!.rules.push(
      { kind: 'excludes', parts: ['cap-knit', 'shirt-work'] },
      { kind: 'excludes', parts: ['cap-knit', 'jersey'] },
    ),
  )
  expect(never.code).toBe(1)
  expect(never.err).toContain('“saltwick-folk/cap-knit” is never worn')
  expect(never.err).toContain('“saltwick-folk/cap-knit” does not go with “saltwick-folk/jersey”')
  expect(never.err).toContain('in “top” something has to be on')
  const none = await prove((p) => {
    p.bodies[0]!.slots[3] = slot('hat', ['cap-knit'], true)
    p.bodies[0]!.rules.push(
      { kind: 'excludes', parts: ['cap-knit', 'shirt-work'] },
      { kind: 'excludes', parts: ['cap-knit', 'jersey'] },
    )
  })
  expect(none).toMatchObject({ code: 1, out: '', err: expect.stringContaining('There is no choice') as string })

  for (const change of [
    (p: Picks) => Object.assign(p, { version: 2 }),
    (p: Picks) => (p.bodies[0]!.body.id = 'nobody'),
    (p: Picks) => (p.bodies[0]!.body.kit = 'nokit'),
    (p: Picks) => (p.bodies[0]!.slots[0]!.start = 'gone'),
  ])
    expect(await prove(change)).toMatchObject({ code: 1, out: '' })
  expect((await prove(() => undefined, '--target', 'nowhere')).code).toBe(1)
  expect((await tinker('picks', 'prove', join(folder, 'none.json'))).code).toBe(1)
})

const picks = (...args: string[]) => tinker('picks', ...args)

it('builds a package, and puts looks on with it alone', async () => {
  const file = join(folder, 'built.picks.json')
  const at = join(folder, 'package')
  writeFileSync(file, JSON.stringify(PICKS))
  const built = await picks('build', file, '--out', at)
  expect(built).toMatchObject({ code: 0, err: expect.stringContaining('--number') as string })
  expect(readdirSync(at).sort()).toEqual(['human', 'package.json', 'package.schema.json'])
  // with its numbers kept there is nothing to say, and the package is the same
  const manifest = readFileSync(join(at, 'package.json'))
  expect(await picks('build', file, '--out', at, '--number')).toMatchObject({ code: 0, err: '' })
  expect(readPicks(readFileSync(file, 'utf8')).value!.codes!.ofBody.human!.parts.hat).toEqual([
    'saltwick-folk/cap-knit',
  ])
  expect(await picks('build', file, '--out', at)).toMatchObject({ code: 0, err: '' })
  expect(readFileSync(join(at, 'package.json')).equals(manifest)).toBe(true)

  // what an earlier build left goes, and nothing else
  const fewer = join(folder, 'fewer.picks.json')
  const hatless = {
    ...PICKS,
    bodies: PICKS.bodies.map((b) => ({ ...b, slots: b.slots.filter((s) => s.slot !== 'hat') })),
  }
  writeFileSync(fewer, JSON.stringify(hatless))
  writeFileSync(join(at, 'human/own.txt'), 'mine')
  await picks('build', fewer, '--out', at)
  expect(readdirSync(join(at, 'human'))).toEqual(expect.arrayContaining(['own.txt', 'top.glb']))
  expect(readdirSync(join(at, 'human'))).not.toContain('hat.glb')
  await picks('build', file, '--out', at)
  expect(readdirSync(join(at, 'human'))).toContain('hat.glb')

  const glb = join(folder, 'look.glb')
  const drawn = await picks('look', '--package', at, '--seed', '4', '--out', glb, '--json')
  expect([drawn.code, drawn.err]).toEqual([0, ''])
  const told = JSON.parse(drawn.out) as { look: string; parts: Record<string, string>; costs: { triangles: number } }
  expect(await glbFaults(readFileSync(glb))).toEqual([])
  const { facts } = await checkShipped(readFileSync(glb), 'look')
  expect(facts!.triangles).toBe(told.costs.triangles)
  // the text gives the same look, and a coarser level less of it
  const again = JSON.parse((await picks('look', told.look, '--package', at, '--json')).out) as typeof told
  expect(again.parts).toEqual(told.parts)
  const coarse = JSON.parse(
    (await picks('look', told.look, '--package', at, '--level', '2', '--json')).out,
  ) as typeof told
  expect(coarse.costs.triangles).toBeLessThan(told.costs.triangles * 0.5)

  expect(await picks('look', 'AAAAAAAAA', '--package', at)).toMatchObject({ code: 1, out: '' })
  expect(await picks('look', '--package', at, '--body', 'nobody')).toMatchObject({ code: 1, out: '' })
  expect(await picks('look', '--package', at, '--level', '-1')).toMatchObject({ code: 2, out: '' })
  expect((await picks('look', '--package', join(folder, 'nowhere'))).err).toContain('package.json')
  rmSync(join(at, 'human/top.glb'))
  const missing = await picks('look', '--package', at)
  expect(missing).toMatchObject({ code: 1, err: expect.stringContaining('top') as string })
  // the figure is told all the same
  expect(missing.out).toContain('triangles')
  rmSync(join(at, 'human/base.glb'))
  expect((await picks('look', '--package', at)).code).toBe(1)
})

it('is proved by the command as it is started, from its bundle', async () => {
  const file = join(folder, 'started.picks.json')
  writeFileSync(file, JSON.stringify(PICKS))
  const tinker = fileURLToPath(new URL('../bin/tinker.mjs', import.meta.url))
  const { stdout, stderr } = await promisify(execFile)(process.execPath, [tinker, 'picks', 'prove', file])
  expect(stderr).toBe('')
  expect(stdout).toMatch(/Docker: \d+ to \d+ triangles, proved over every choice/)
})
