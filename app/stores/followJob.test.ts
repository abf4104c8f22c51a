import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { Refused } from './api.ts'
import { JobFollower, type Job, type JobPlace } from './followJob.ts'

const ask = vi.hoisted(() => vi.fn())
vi.mock('./api', async (original) => ({ ...(await original<typeof import('./api.ts')>()), ask }))

/** Streams as they were opened. */
class Stream {
  static readonly CLOSED = 2
  static all: Stream[] = []
  readyState = 1
  onmessage: (event: { data: string }) => void = () => undefined
  onerror: () => void = () => undefined
  constructor(readonly url: string) {
    Stream.all.push(this)
  }
  close(): void {
    this.readyState = Stream.CLOSED
  }
}

const job = (id: string, state: Job<string>['state'], done = 0): Job<string> => ({
  ...{ id, state, done, total: 10, result: null, error: null },
})
let place: JobPlace<string>
let forgotten: string[]
let follower: JobFollower<string>

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('EventSource', Stream)
  Stream.all = []
  ask.mockReset()
  place = { job: null, away: false }
  forgotten = []
  follower = new JobFollower(
    () => place,
    (id) => forgotten.push(id),
  )
})
afterEach(() => vi.useRealTimers())

it('follows a job from its stream, and looks again while the server is away', async () => {
  follower.follow('a')
  const [stream] = Stream.all
  stream!.onmessage({ data: JSON.stringify(job('a', 'running', 3)) })
  expect(place).toMatchObject({ job: { done: 3 }, away: false })
  // a stream that only broke is the browser's own to take up
  stream!.onerror()
  expect(place.away).toBe(false)
  stream!.close()
  stream!.onerror()
  expect(place.away).toBe(true)
  ask.mockRejectedValueOnce(new TypeError('away')).mockResolvedValueOnce(job('a', 'running', 5))
  await vi.advanceTimersByTimeAsync(2000)
  expect(place.away).toBe(true)
  await vi.advanceTimersByTimeAsync(2000)
  expect([place.away, place.job!.done, Stream.all.length]).toEqual([false, 5, 2])
  Stream.all[1]!.onmessage({ data: JSON.stringify(job('a', 'done', 10)) })
  expect([place.job!.state, Stream.all[1]!.readyState]).toEqual(['done', Stream.CLOSED])
})

it('tells that the server is away where a job is taken up again, and goes on', async () => {
  ask.mockRejectedValueOnce(new TypeError('away')).mockResolvedValueOnce(job('a', 'done', 10))
  await follower.look('a')
  expect([place.away, place.job]).toEqual([true, null])
  await vi.advanceTimersByTimeAsync(2000)
  expect(place).toMatchObject({ away: false, job: { state: 'done' } })
})

it('passes over what is answered of a job that is not followed any more', async () => {
  const answers: Record<string, (answer: Job<string>) => void> = {}
  ask.mockImplementation((path: string) => new Promise((resolve) => (answers[path] = resolve)))
  const first = follower.look('a')
  const second = follower.look('b')
  answers['/api/jobs/b']!(job('b', 'done'))
  await second
  answers['/api/jobs/a']!(job('a', 'running'))
  await first
  expect([place.job!.id, Stream.all]).toEqual(['b', []])
  // nor of one that is left
  const third = follower.look('c')
  follower.stop()
  answers['/api/jobs/c']!(job('c', 'running'))
  await third
  expect([place.job!.id, Stream.all]).toEqual(['b', []])
})

it('does not put a canceled job in the place of another', async () => {
  ask.mockResolvedValueOnce(job('a', 'running'))
  await follower.look('a')
  let answer: (canceled: Job<string>) => void = () => undefined
  ask.mockImplementationOnce(() => new Promise((resolve) => (answer = resolve)))
  const canceling = follower.cancel()
  ask.mockResolvedValueOnce(job('b', 'done'))
  await follower.look('b')
  answer(job('a', 'canceled'))
  await canceling
  expect(place.job!.id).toBe('b')
})

it('forgets what the server does not know', async () => {
  ask.mockRejectedValueOnce(new Refused(404, 'gone', []))
  await follower.look('a')
  expect([place.job, forgotten]).toEqual([null, ['a']])
})
