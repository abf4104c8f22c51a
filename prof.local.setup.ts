import { Session } from 'node:inspector'
import { writeFileSync, mkdirSync } from 'node:fs'
import { afterAll, expect } from 'vitest'
const g = globalThis as any
const s: Session = (g.__s ??= new Session())
if (!g.__c) { s.connect(); s.post('Profiler.enable'); s.post('Profiler.setSamplingInterval', { interval: 2000 }); g.__c = 1 }
s.post('Profiler.start')
mkdirSync('/tmp/prof-u', { recursive: true })
const c0 = process.cpuUsage()
afterAll(() => {
  const c = process.cpuUsage(c0)
  const name = expect.getState().testPath!.replace(/.*main\//, '').replaceAll('/', '+')
  s.post('Profiler.stop', (_e: unknown, r: any) => { writeFileSync(`/tmp/prof-u/${name}.cpuprofile`, JSON.stringify(r.profile)); writeFileSync(`/tmp/prof-u-${name}.cpu`, String((c.user + c.system) / 1e6)) })
})
