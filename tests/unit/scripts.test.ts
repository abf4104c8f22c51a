import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { ensureModules, ensurePackages, ensureSpace, hasProgram } from '../../scripts/install.mjs'
import { freePort, portIsFree, stopLeftover } from '../../scripts/mariadb.mjs'
import { runScript, Stop } from '../../scripts/say.mjs'

let folder: string
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'tinker-scripts-'))
})
afterEach(() => {
  rmSync(folder, { recursive: true, force: true })
  vi.restoreAllMocks()
  vi.unstubAllEnvs()
})

describe('what the two commands need', () => {
  it('is found on the path or where Debian puts servers', () => {
    expect(hasProgram('sh')).toBe(true)
    expect(hasProgram('no-such-program-here')).toBe(false)
    writeFileSync(join(folder, 'own-program'), '')
    vi.stubEnv('PATH', folder)
    expect(hasProgram('own-program')).toBe(true)
  })

  it('is said as the exact command to someone who may not install it', () => {
    vi.spyOn(process, 'getuid').mockReturnValue(1000)
    expect(() => ensurePackages({ sh: 'dash' })).not.toThrow()
    const attempt = () => ensurePackages({ sh: 'dash', 'no-such-program': 'package-a', 'nor-this': 'package-b' })
    expect(attempt).toThrow(Stop)
    expect(attempt).toThrow('sudo apt-get install -y package-a package-b')
  })

  it('waits for another installation to end, and fails at once for any other reason', () => {
    // an apt-get that is locked twice, then installs; the folder of the test is all that is on its path
    const apt = (lines: string) => writeFileSync(join(folder, 'apt-get'), `#!/bin/sh\n${lines}\n`, { mode: 0o755 })
    vi.spyOn(process, 'getuid').mockReturnValue(0)
    vi.stubEnv('PATH', `${folder}:/bin:/usr/bin`)
    const said = vi.spyOn(process.stdout, 'write').mockImplementation(() => true)
    apt(`echo "$1" >> ${folder}/calls
      if [ $(wc -l < ${folder}/calls) -le 2 ]; then echo "E: Could not get lock /var/lib/dpkg/lock-frontend." >&2; exit 100; fi`)
    ensurePackages({ 'no-such-program': 'package-a' }, 1)
    expect(readFileSync(join(folder, 'calls'), 'utf8').trim().split('\n')).toEqual([
      'update',
      'update',
      'update',
      'install',
    ])
    expect(said.mock.calls.flat().join(' ')).toContain('Another installation')
    rmSync(join(folder, 'calls'))
    apt(`echo "$1" >> ${folder}/calls; echo "E: Unable to locate package" >&2; exit 100`)
    vi.spyOn(process.stderr, 'write').mockImplementation(() => true)
    expect(() => ensurePackages({ 'no-such-program': 'package-a' }, 1)).toThrow('apt-get install -y package-a')
    expect(readFileSync(join(folder, 'calls'), 'utf8').trim().split('\n')).toEqual(['update', 'install'])
  })

  it('counts packages as there when they are newer than the lock file', () => {
    writeFileSync(join(folder, 'package-lock.json'), '{}')
    mkdirSync(join(folder, 'node_modules'))
    writeFileSync(join(folder, 'node_modules/.package-lock.json'), '{}')
    const said: string[] = []
    vi.spyOn(process.stdout, 'write').mockImplementation((text) => said.push(String(text)) > 0)
    ensureModules(folder)
    expect(said).toEqual([])
    // an older marker means the lock file has changed since: it installs, which fails here for want of a package.json
    utimesSync(join(folder, 'node_modules/.package-lock.json'), new Date(2020, 1), new Date(2020, 1))
    expect(() => ensureModules(folder)).toThrow(Stop)
    expect(said.join('')).toContain('npm ci')
  })

  it('includes room on the disk', () => {
    expect(() => ensureSpace(folder)).not.toThrow()
  })
})

describe('a script', () => {
  const run = async (work: () => unknown) => {
    const written: string[] = []
    vi.spyOn(process.stderr, 'write').mockImplementation((text) => written.push(String(text)) > 0)
    const exit = vi.spyOn(process, 'exit').mockImplementation((() => undefined) as never)
    await runScript(work)
    return { text: written.join(''), code: exit.mock.calls[0]?.[0] }
  }

  it('ends with a sentence and no stack when there is something to do', async () => {
    const { text, code } = await run(() => {
      throw new Stop('Port 4310 is taken.')
    })
    expect(text).toBe('Port 4310 is taken.\n')
    expect(code).toBe(1)
  })

  it('says that the disk is full when it is', async () => {
    const { text } = await run(() => {
      throw Object.assign(new Error('write failed'), { code: 'ENOSPC' })
    })
    expect(text).toContain('The disk is full')
    expect(text).not.toContain('    at ')
  })

  it('that goes well says nothing', async () => {
    expect(await run(() => Promise.resolve())).toEqual({ text: '', code: undefined })
  })
})

describe('ports and leftovers', () => {
  it('tells a free port from a taken one', async () => {
    const port = await freePort()
    expect(await portIsFree(port)).toBe(true)
    const server = createServer().listen(port, '127.0.0.1')
    await new Promise((resolve) => server.once('listening', resolve))
    expect(await portIsFree(port)).toBe(false)
    await new Promise((resolve) => server.close(resolve))
    expect(await portIsFree(port)).toBe(true)
  })

  it('ends what an earlier run has left, and nothing that merely has its number', async () => {
    const child = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)', 'marked-by-us'], { stdio: 'ignore' })
    const gone = new Promise((resolve) => child.once('exit', resolve))
    const note = join(folder, 'pid')
    writeFileSync(note, String(child.pid))
    await stopLeftover(note, 'somebody-else')
    expect(existsSync(`/proc/${child.pid}`)).toBe(true)
    await stopLeftover(note, 'marked-by-us')
    await gone
    expect(child.signalCode).toBe('SIGTERM')
    // neither a number that nobody has nor a missing note is a fault
    await stopLeftover(note, 'marked-by-us')
    await stopLeftover(join(folder, 'none'), 'x')
  })
})
