import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openWorkers } from './crowdWorkers.ts'
import type { ShipOrder } from './shipOne.ts'

let folder: string
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'threads-'))
})
afterAll(() => rmSync(folder, { recursive: true }))

const order = (name: string) => ({ recipe: { name } }) as ShipOrder
const threadOf = (name: string, source: string) => {
  const path = join(folder, `${name}.mjs`)
  writeFileSync(path, source)
  return pathToFileURL(path)
}
const all = (workers: ReturnType<typeof openWorkers>, count: number) =>
  Promise.allSettled(Array.from({ length: count }, (_, i) => workers.ship(order(`${i}`))))
const reasons = (settled: PromiseSettledResult<unknown>[]) => [
  ...new Set(settled.map((s) => (s.status === 'rejected' ? String(s.reason) : 'shipped'))),
]

describe('threads of a crowd', () => {
  it('get the kits, and orders one by one', async () => {
    const source = `import { workerData } from 'node:worker_threads'
      export default ({ recipe }) => ({ costs: null, problems: [recipe.name, String(workerData.size)] })`
    const workers = openWorkers(new Map([['a', {} as never]]), 9, 2, threadOf('fine', source))
    const answers = await Promise.all(['x', 'y', 'z'].map((name) => workers.ship(order(name))))
    expect(answers.map((a) => a.problems)).toEqual(['x', 'y', 'z'].map((name) => [name, '1']))
    await workers.close()
  })

  it('are no more than there are figures', async () => {
    const source = `import { writeFileSync } from 'node:fs'
      import { threadId } from 'node:worker_threads'
      writeFileSync(${JSON.stringify(folder)} + '/started-' + threadId, '')
      export default () => ({ costs: null, problems: [] })`
    const workers = openWorkers(new Map(), 2, 6, threadOf('counted', source))
    await all(workers, 2)
    // as long as some more would take to start
    await new Promise((done) => setTimeout(done, 500))
    await workers.close()
    expect(readdirSync(folder).filter((name) => name.startsWith('started-'))).toHaveLength(2)
  })

  it('say what is wrong where they cannot start, before there is an order and after', async () => {
    const workers = openWorkers(new Map(), 9, 2, threadOf('broken', 'throw new Error("it is broken")'))
    expect(reasons(await all(workers, 5))).toEqual(['Error: it is broken'])
    expect(reasons(await all(workers, 2))).toEqual(['Error: it is broken'])
    await workers.close()
    const waited = openWorkers(new Map(), 9, 2, threadOf('broken', 'throw new Error("it is broken")'))
    await new Promise((done) => setTimeout(done, 1500))
    expect(reasons(await all(waited, 3))).toEqual(['Error: it is broken'])
    await waited.close()
  })

  it('say so where one stops in the middle', async () => {
    const source = `export default ({ recipe }) => { if (recipe.name === '1') process.exit(3); return { costs: null, problems: [] } }`
    const workers = openWorkers(new Map(), 9, 2, threadOf('stops', source))
    expect(reasons(await all(workers, 2))).toContain('Error: worker exited with code: 3')
    await workers.close()
  })
})
