import { execFile } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { promisify } from 'node:util'
import { afterAll, expect, it } from 'vitest'
import type { Picks, Target } from '@idle-tinker/core'
import { KITS_FOLDER } from '../../core/src/testing/demoKits.ts'
import { main } from './main.ts'

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
  const [out, err]: [string[], string[]] = [[], []]
  const say = { out: (l: string) => out.push(l), err: (l: string) => err.push(l) }
  const code = await main(['picks', 'prove', file, ...args], say)
  return { code, out: out.join('\n'), err: err.join('\n') }
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
  expect(
    await main(['picks', 'prove', join(folder, 'none.json')], { out: () => undefined, err: () => undefined }),
  ).toBe(1)
})

it('is proved by the command as it is started, from its bundle', async () => {
  const file = join(folder, 'started.picks.json')
  writeFileSync(file, JSON.stringify(PICKS))
  const tinker = fileURLToPath(new URL('../bin/tinker.mjs', import.meta.url))
  const { stdout, stderr } = await promisify(execFile)(process.execPath, [tinker, 'picks', 'prove', file])
  expect(stderr).toBe('')
  expect(stdout).toMatch(/Docker: \d+ to \d+ triangles, proved over every choice/)
})
