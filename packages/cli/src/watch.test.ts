import { spawn } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { repeatOnChange } from './repeatOnChange.ts'
import { tinker } from './testing/tinker.ts'

const BIN = fileURLToPath(new URL('../bin/tinker.mjs', import.meta.url))
let folder: string
beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'tinker-watch-'))))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const until = async (what: () => boolean) => {
  // on a busy machine a figure takes seconds
  for (let i = 0; i < 1200 && !what(); i++) await new Promise((resolve) => setTimeout(resolve, 50))
  expect(what()).toBe(true)
}

describe('what is done again on a change', () => {
  it('is done once for what changes meanwhile, never for what it writes itself, and ends when it is told to', async () => {
    const [file, out] = [join(folder, 'a.json'), join(folder, 'out')]
    mkdirSync(out)
    writeFileSync(file, '0')
    const stop = new AbortController()
    let [times, under, most] = [0, 0, 0]
    const seen: string[] = []
    const done = repeatOnChange([file, folder], out, stop.signal, async () => {
      most = Math.max(most, ++under)
      seen.push(readFileSync(file, 'utf8'))
      await new Promise((resolve) => setTimeout(resolve, 400))
      writeFileSync(join(out, `${times++}.txt`), 'made')
      under--
    })
    await until(() => times === 1)
    writeFileSync(file, '1')
    await until(() => under === 1)
    // two changes while it works
    writeFileSync(file, '2')
    await new Promise((resolve) => setTimeout(resolve, 250))
    await until(() => times === 3)
    await new Promise((resolve) => setTimeout(resolve, 800))
    expect([times, most, seen]).toEqual([3, 1, ['0', '1', '2']])
    stop.abort()
    await done
    writeFileSync(file, '3')
    await new Promise((resolve) => setTimeout(resolve, 500))
    expect(times).toBe(3)
  })

  it('ships a figure again when its recipe has changed, tells of one that cannot be read, and ends by a signal', async () => {
    expect((await tinker('figures', '--out', folder)).code).toBe(0)
    const [recipe, out] = [join(folder, 'brother-eel.recipe.json'), join(folder, 'ships')]
    const child = spawn(process.execPath, [BIN, 'ship', recipe, '--target', 'far', '--watch', '--out', out])
    let [said, faults] = ['', '']
    child.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()))
    child.stderr.on('data', (chunk: Buffer) => (faults += chunk.toString()))
    const ended = new Promise<number | null>((resolve) => child.once('exit', resolve))
    try {
      const waits = () => said.split('Waiting for a change.').length - 1
      await until(() => waits() === 1)
      const file = join(out, 'brother-eel.glb')
      const first = statSync(file).mtimeMs
      const text = readFileSync(recipe, 'utf8')
      writeFileSync(recipe, '{')
      await until(() => waits() === 2)
      expect(faults).toContain('brother-eel.recipe.json')
      // what was there stays
      expect(statSync(file).mtimeMs).toBe(first)
      writeFileSync(recipe, JSON.stringify({ ...(JSON.parse(text) as object), name: 'Sister Eel' }))
      await until(() => waits() === 3)
      expect(statSync(join(out, 'sister-eel.glb')).size).toBeGreaterThan(1000)
    } finally {
      child.kill('SIGINT')
    }
    expect(await ended).toBe(0)
  })
})
