import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import {
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statfsSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, afterEach, describe, expect, it } from 'vitest'
import { freePort } from '../../scripts/mariadb.mjs'

const folder = mkdtempSync(join(tmpdir(), 'tinker-demo-'))
const running: ChildProcess[] = []

interface Demo {
  process: ChildProcess
  output: () => string
  address: string
  seconds: number
}

function demo(...args: string[]): { process: ChildProcess; output: () => string } {
  return demoOn(folder, ...args)
}

function demoOn(data: string, ...args: string[]): { process: ChildProcess; output: () => string } {
  const child = spawn(process.execPath, ['scripts/demo.mjs', ...args], { env: { ...process.env, TINKER_DATA: data } })
  let text = ''
  child.stdout.on('data', (d: Buffer) => (text += d.toString()))
  child.stderr.on('data', (d: Buffer) => (text += d.toString()))
  running.push(child)
  return { process: child, output: () => text }
}

const ended = (child: ChildProcess) =>
  new Promise<number | null>((resolve) =>
    child.exitCode !== null || child.signalCode !== null
      ? resolve(child.exitCode)
      : child.once('exit', (code) => resolve(code)),
  )

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

async function until(test: () => boolean): Promise<void> {
  for (let i = 0; i < 300 && !test(); i++) await pause(100)
  expect(test()).toBe(true)
}

/** Whether we may have a disk of our own, in memory. */
function canMount(): boolean {
  const place = mkdtempSync(join(tmpdir(), 'tinker-mount-'))
  try {
    execFileSync('mount', ['-t', 'tmpfs', 'tmpfs', place], { stdio: 'ignore' })
    execFileSync('umount', [place])
    return true
  } catch {
    return false
  } finally {
    rmSync(place, { recursive: true })
  }
}

const started = (...args: string[]): Promise<Demo> => startedOn(folder, ...args)

async function startedOn(data: string, ...args: string[]): Promise<Demo> {
  const begin = process.hrtime.bigint()
  const run = demoOn(data, ...args)
  for (let i = 0; i < 600; i++) {
    const address = /running:\s+(http:\S+)/.exec(run.output())?.[1]
    if (address) return { ...run, address, seconds: Number(process.hrtime.bigint() - begin) / 1e9 }
    if (run.process.exitCode !== null) throw new Error(run.output())
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  throw new Error(`not started: ${run.output()}`)
}

const databasePid = () => Number(readFileSync(join(folder, 'pid'), 'utf8'))
const alive = (pid: number) => existsSync(`/proc/${pid}`)

afterEach(async () => {
  for (const child of running.splice(0)) {
    child.kill('SIGTERM')
    await ended(child)
  }
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

describe('npm run demo', () => {
  it('starts database and app, keeps the password to the owner, and stops both on Ctrl-C', async () => {
    const { process: child, address } = await started('--port', String(await freePort()))
    expect((await fetch(`${address}/bench`)).status).toBe(200)
    expect(statSync(join(folder, 'password')).mode & 0o777).toBe(0o600)
    const pid = databasePid()
    expect(alive(pid)).toBe(true)
    child.kill('SIGINT')
    expect(await ended(child)).toBe(0)
    expect(alive(pid)).toBe(false)
    await expect(fetch(`${address}/api/health`)).rejects.toThrow()
  })

  it('keeps what was made, and starts the second time in under ten seconds', async () => {
    const { address, seconds } = await started('--port', String(await freePort()))
    // alone it takes about three
    expect(seconds).toBeLessThan(10)
    expect(await (await fetch(`${address}/api/documents/figure`)).json()).toHaveLength(9)
  })

  it('says where it runs when it is started twice, and leaves the first alone', async () => {
    const { address } = await started('--port', String(await freePort()))
    const second = demo()
    expect(await ended(second.process)).toBe(1)
    expect(second.output()).toContain(`already running:  ${address}`)
    expect((await fetch(`${address}/api/health`)).status).toBe(200)
  })

  it('starts the database again when that has been killed, and goes on', async () => {
    const { address, output } = await started('--port', String(await freePort()))
    const before = databasePid()
    process.kill(before, 'SIGKILL')
    const answers = async () => (await fetch(`${address}/api/documents/figure`)).status
    for (let i = 0; i < 300 && !output().includes('is back'); i++)
      await new Promise((resolve) => setTimeout(resolve, 100))
    expect(output()).toContain('The database is back.')
    // connections of before are told to be lost, one after another; then it is as it was
    for (let i = 0; i < 50 && (await answers()) !== 200; i++) await new Promise((resolve) => setTimeout(resolve, 200))
    expect(await answers()).toBe(200)
    expect(databasePid()).not.toBe(before)
  })

  it('says why when the database cannot be started again, and ends', async () => {
    const { process: child, output } = await started('--port', String(await freePort()))
    const system = join(folder, 'data/ibdata1')
    const whole = readFileSync(system)
    writeFileSync(system, 'nothing')
    process.kill(databasePid(), 'SIGKILL')
    expect(await ended(child)).toBe(1)
    writeFileSync(system, whole)
    expect(output()).toMatch(/The database could not start: .*ERROR.*(ibdata1|InnoDB)/)
  })

  // a disk of its own is what only some are allowed to have
  it.skipIf(!canMount())(
    'waits on a full disk, says so, and goes on with all that was saved when there is room',
    async () => {
      const disk = mkdtempSync(join(tmpdir(), 'tinker-disk-'))
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=300m', 'tmpfs', disk])
      try {
        const data = join(disk, 'data')
        const { process: child, output, address } = await startedOn(data, '--port', String(await freePort()))
        const ask = async (path: string, init?: RequestInit) => (await fetch(`${address}/api/${path}`, init)).status
        const figures = (await (await fetch(`${address}/api/documents/figure`)).json()) as { content: unknown }[]
        const make = { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(figures[0]!.content) } // prettier-ignore
        expect(await ask('documents/figure', make)).toBe(201)
        const { bavail, bsize } = statfsSync(disk)
        writeFileSync(join(disk, 'filler'), Buffer.alloc(bavail * bsize))
        process.kill(Number(readFileSync(join(data, 'pid'), 'utf8')), 'SIGKILL')
        await until(() => output().includes('The disk is full'))
        expect(await ask('health')).toBe(503)
        expect(await ask('documents/figure', make)).toBe(503)
        // another that is started there is told at once
        const second = demoOn(join(disk, 'other'), '--port', String(await freePort()))
        expect(await ended(second.process)).toBe(1)
        expect(second.output()).toContain('disk is full')
        rmSync(join(disk, 'filler'))
        await until(() => output().includes('The database is back.'))
        // connections of before are told to be lost, one after another
        for (let i = 0; i < 50 && (await ask('health')) !== 200; i++) await pause(200)
        expect(await ask('health')).toBe(200)
        expect(await (await fetch(`${address}/api/documents/figure`)).json()).toHaveLength(figures.length + 1)
        expect(await ask('documents/figure', make)).toBe(201)
        const room = statfsSync(disk)
        writeFileSync(join(disk, 'filler'), Buffer.alloc(room.bavail * room.bsize))
        const before = output().length
        process.kill(Number(readFileSync(join(data, 'pid'), 'utf8')), 'SIGKILL')
        await until(() => output().slice(before).includes('The disk is full'))
        // who stops it while it waits does not wait along
        child.kill('SIGINT')
        expect(await ended(child)).toBe(0)
        await expect(fetch(`${address}/api/health`)).rejects.toThrow()
      } finally {
        for (const child of running.splice(0)) {
          child.kill('SIGTERM')
          await ended(child)
        }
        execFileSync('umount', [disk])
        rmSync(disk, { recursive: true })
      }
    },
  )

  it('recovers after it has been killed hard', async () => {
    const first = await started('--port', String(await freePort()))
    const recipe = ((await (await fetch(`${first.address}/api/documents/figure`)).json()) as { content: unknown }[])[0]!
      .content
    await fetch(`${first.address}/api/documents/figure`, {
      method: 'POST',
      body: JSON.stringify(recipe),
      headers: { 'content-type': 'application/json' },
    })
    const left = databasePid()
    first.process.kill('SIGKILL')
    await ended(first.process)
    expect(alive(left)).toBe(true)
    // the same port: the app that was left there is ended first
    const { address } = await started('--port', new URL(first.address).port)
    expect(await (await fetch(`${address}/api/documents/figure`)).json()).toHaveLength(10)
    expect(alive(left)).toBe(false)
  })

  it('says in a sentence that a port is taken or an option unknown', async () => {
    const blocker = createServer().listen(0, '127.0.0.1')
    await new Promise((resolve) => blocker.once('listening', resolve))
    const { port } = blocker.address() as { port: number }
    for (const [args, words] of [
      [['--port', String(port)], `Port ${port} is taken`],
      [['--wings'], 'is not known'],
      [['--port', 'x'], '--port wants a number'],
    ] as const) {
      const { process: child, output } = demo(...args)
      expect(await ended(child)).toBe(1)
      expect(output()).toContain(words)
      expect(output()).not.toContain('    at ')
    }
    blocker.close()
  })

  it('does not delete a folder with --reset that it has not made', async () => {
    const own = mkdtempSync(join(tmpdir(), 'own-'))
    writeFileSync(join(own, 'letters.txt'), 'dear')
    const { process: child, output } = demoOn(own, '--reset')
    expect(await ended(child)).toBe(1)
    expect(output()).toContain('was not made by this program')
    expect(readdirSync(own)).toEqual(['letters.txt'])
    rmSync(own, { recursive: true })
  })

  it('starts over with --reset', async () => {
    const { address } = await started('--reset', '--port', String(await freePort()))
    expect(await (await fetch(`${address}/api/documents/figure`)).json()).toHaveLength(9)
  })
})
