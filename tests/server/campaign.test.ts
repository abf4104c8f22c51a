import { randomUUID } from 'node:crypto'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, it } from 'vitest'
import { createRandom, type Recipe } from '@idle-tinker/core'
import { freePort, startMariaDb, type PrivateMariaDb } from '../../scripts/mariadb.mjs'
import { startServer, type RunningServer } from '../../scripts/server.mjs'
import { crowdOf } from './api.ts'

/** How long it goes on, seconds; the long run by hand: TINKER_CAMPAIGN=600. */
const SECONDS = Number(process.env.TINKER_CAMPAIGN ?? 20)
/** A campaign with fewer of them would show nothing. */
const LEAST_KILLS = 3
const WRITERS = 4
const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

interface Counts {
  saves: number
  /** Saves without an answer, or answered that they failed. */
  unanswered: number
  conflicts: number
  kills: { app: number; database: number; both: number }
  jobs: Record<string, number>
}

/** App and database of one folder, that can be killed and started again. */
class Pair {
  private readonly folder = mkdtempSync(join(tmpdir(), 'tinker-campaign-'))
  private readonly ports: { app: number; database: number }
  private mariadb!: PrivateMariaDb
  private server!: RunningServer

  private constructor(app: number, database: number) {
    this.ports = { app, database }
  }

  static async start(): Promise<Pair> {
    const pair = new Pair(await freePort(), await freePort())
    await pair.startDatabase()
    await pair.startApp()
    return pair
  }

  get address(): string {
    return `http://127.0.0.1:${this.ports.app}`
  }

  async kill(what: keyof Counts['kills']): Promise<void> {
    const database = Number(readFileSync(join(this.folder, 'pid'), 'utf8'))
    if (what !== 'database') process.kill(this.server.pid, 'SIGKILL')
    if (what !== 'app') process.kill(database, 'SIGKILL')
    if (what !== 'app') {
      await this.mariadb.whenEnded
      await this.startDatabase()
    }
    if (what !== 'database') {
      await this.server.whenEnded
      await this.startApp()
    }
  }

  async stop(): Promise<void> {
    await this.server.stop()
    await this.mariadb.stop()
    rmSync(this.folder, { recursive: true, force: true })
  }

  private async startDatabase(): Promise<void> {
    this.mariadb = await startMariaDb(this.folder, { port: this.ports.database })
  }

  private async startApp(): Promise<void> {
    this.server = await startServer({ database: this.mariadb.address, port: this.ports.app, quiet: true })
  }
}

it(
  `loses no save that was acknowledged, though app and database are killed again and again for ${SECONDS} s`,
  async () => {
    const random = createRandom(1859)
    const counts: Counts = { saves: 0, unanswered: 0, conflicts: 0, kills: { app: 0, database: 0, both: 0 }, jobs: {} }
    const pair = await Pair.start()
    try {
      const ask = async (path: string, method = 'GET', body?: object) => {
        const answer = await fetch(`${pair.address}/api/${path}`, {
          method,
          headers: { 'content-type': 'application/json' },
          body: body && JSON.stringify(body),
          signal: AbortSignal.timeout(10_000),
        })
        return { status: answer.status, body: (await answer.json()) as Record<string, unknown> }
      }
      const [{ content }] = (await ask('documents/figure')).body as unknown as [{ content: Recipe }]
      let going = true
      const acknowledged = new Map<string, number>()

      /** One window that saves as the page does: what was not answered is said with the next try. */
      const write = async (n: number) => {
        const made = await ask('documents/figure', 'POST', { ...content, name: `Writer ${n}` })
        const id = made.body.id as string
        let version = made.body.version as number
        const writer = randomUUID()
        let sent = 0
        let after: string[] = []
        for (let value = 1; going; value++) {
          for (;;) {
            const token = `${writer}.${++sent}`
            const save = { version, content: { ...content, name: `Writer ${n} ${value}` }, token, after }
            // no answer is what the campaign is about: counted, and said with the next try
            const answer = await ask(`documents/figure/${id}`, 'PUT', save).catch(() => null)
            if (answer?.status === 200) {
              counts.saves++
              version = answer.body.version as number
              acknowledged.set(id, value)
              after = []
              break
            }
            if (answer?.status === 409) counts.conflicts++
            else counts.unanswered++
            if (!going || answer?.status === 409) return
            after = [token]
            await sleep(100)
          }
        }
      }

      /** Orders one small crowd after another; what became of each is looked up at the end. */
      const jobs: string[] = []
      const order = async () => {
        const input = crowdOf([content, content])
        while (going) {
          // an order that was not taken is none that can be lost
          const posted = await ask('shipments', 'POST', input).catch(() => null)
          if (posted?.status === 202) jobs.push(posted.body.id as string)
          await sleep(2500)
        }
      }

      const work = [...Array.from({ length: WRITERS }, (_, n) => write(n)), order()]
      const end = Date.now() + SECONDS * 1000
      // on a slow machine each takes long to come up again
      while (Date.now() < end || counts.kills.app + counts.kills.database + counts.kills.both < LEAST_KILLS) {
        await sleep(600 + random.next() * 2000)
        const what = (['app', 'database', 'both'] as const)[Math.floor(random.next() * 3)]!
        counts.kills[what]++
        await pair.kill(what)
      }
      // time to find that all is well again
      await sleep(2500)
      going = false
      await Promise.all(work)

      for (const id of jobs) {
        let state = 'waiting'
        for (let i = 0; i < 300 && (state === 'waiting' || state === 'running'); i++) {
          state = ((await ask(`jobs/${id}`)).body.state as string) ?? 'gone'
          await sleep(100)
        }
        counts.jobs[state] = (counts.jobs[state] ?? 0) + 1
      }
      console.log(JSON.stringify(counts))
      expect(acknowledged.size).toBe(WRITERS)
      for (const [id, value] of acknowledged) {
        const { name } = (await ask(`documents/figure/${id}`)).body as { name: string }
        const kept = Number(name.split(' ').at(-1))
        // what was on its way when the answer was lost may be there as well
        expect([value, value + 1], name).toContain(kept)
      }
      expect(counts.conflicts).toBe(0)
      expect(counts.kills.app + counts.kills.database + counts.kills.both).toBeGreaterThanOrEqual(LEAST_KILLS)
      expect(counts.saves).toBeGreaterThan(SECONDS)
      // one that was killed three times is not begun again; all others are done
      expect(Object.keys(counts.jobs).filter((state) => state !== 'done' && state !== 'failed')).toEqual([])
      expect(counts.jobs.done).toBeGreaterThan(0)
    } finally {
      await pair.stop()
    }
  },
  (1.5 * SECONDS + 120) * 1000,
)
