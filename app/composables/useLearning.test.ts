import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import * as vue from 'vue'
import { newTarget, type Asked, type MotionMatch, type Target } from '@idle-tinker/core'

const worker = vi.hoisted(() => ({ learn: vi.fn() }))
const project = vi.hoisted(() => ({ targets: [] as Target[], addNamed: vi.fn() }))
const limits = vi.hoisted(() => ({ open: vi.fn(), change: vi.fn() }))
vi.mock('../workers', () => ({ workshop: () => worker }))
vi.mock('../stores/project', () => ({ useProject: () => project }))
vi.mock('../stores/target', () => ({ useTarget: () => limits }))

const near = newTarget('near', 'Near')
const learned = { target: { ...near, convention: { ...near.convention, unit: 0.01 } }, match: { bones: {} }, doubtful: [], left: [] } // prettier-ignore
const asked = { joints: [], bones: [], match: null } as unknown as Asked
const match = { bones: { hips: 'Hip' } } as unknown as MotionMatch
const game = () => new File(['joints'], 'harbour.bvh')
let current: Target
let said: string
let lessons: ReturnType<(typeof import('./useLearning.ts'))['useLearning']>
const choose = (id: string) => void (current = project.targets.find((t) => t.id === id)!)

beforeEach(async () => {
  vi.resetModules()
  setActivePinia(createPinia())
  for (const name of ['shallowRef', 'computed', 'toRaw'] as const) vi.stubGlobal(name, vue[name])
  vi.stubGlobal('learnedWords', () => ['found'])
  current = near
  said = ''
  project.targets = [near]
  worker.learn
    .mockReset()
    .mockImplementation((_bytes, _file, { name }: Target) =>
      Promise.resolve({ value: { ...learned, target: { ...learned.target, name } }, problems: [], asked }),
    )
  limits.change.mockReset()
  project.addNamed.mockReset().mockImplementation((_: string, target: Target) => {
    const added = { ...target, id: `new-${project.targets.length}` }
    project.targets = [...project.targets, added]
    return Promise.resolve({ id: added.id })
  })
  lessons = (await import('./useLearning.ts')).useLearning({
    target: () => current,
    attempt: (work) => work().catch((error: Error) => void (said = error.message)),
    tell: (_, message = '') => void (said = message),
  })
})

describe('learning from a file of a game', () => {
  it('makes a target, and changes its convention alone by what is said of its bones', async () => {
    await lessons.learnFrom(game(), choose)
    expect([said, current.id, lessons.asked.value!.learned]).toEqual(['“harbour” is a target now.', 'new-1', true])
    await lessons.answer(match, choose)
    expect(worker.learn.mock.lastCall![3]).toEqual(match)
    expect(project.addNamed).toHaveBeenCalledTimes(1)
    expect(limits.change).toHaveBeenCalledWith({ ...current, convention: learned.target.convention })
    // of another target nothing is asked
    current = near
    expect(lessons.asked.value).toBeNull()
  })

  it('makes it anew where another window has deleted it meanwhile', async () => {
    await lessons.learnFrom(game(), choose)
    project.targets = [near]
    await lessons.answer(match, choose)
    expect([project.addNamed.mock.calls.length, limits.change.mock.calls.length]).toEqual([2, 0])
    expect(said).toContain('is a target now')
  })

  it('tells what the server or the worker refuses, and can be asked again', async () => {
    project.addNamed.mockRejectedValueOnce(new Error('The workshop does not answer.'))
    await lessons.learnFrom(game(), choose)
    expect([said, current.id, lessons.asked.value!.learned]).toEqual(['The workshop does not answer.', 'near', false])
    worker.learn.mockRejectedValueOnce(new Error('A worker has ended.'))
    await lessons.answer(match, choose)
    expect([said, project.addNamed.mock.calls.length]).toEqual(['A worker has ended.', 1])
    await lessons.answer(match, choose)
    expect(current.id).toBe('new-1')
  })

  it('asks of a file from which nothing could be learned, and of nothing where it holds no bones', async () => {
    worker.learn.mockResolvedValue({ value: null, problems: [], asked })
    await lessons.learnFrom(game(), choose)
    expect([said, lessons.asked.value!.learned]).toEqual(['Nothing could be learned from harbour.bvh.', false])
    worker.learn.mockResolvedValue({ value: null, problems: [], asked: null })
    await lessons.learnFrom(game(), choose)
    expect(lessons.asked.value).toBeNull()
    await lessons.answer(match, choose)
    expect(project.addNamed).not.toHaveBeenCalled()
  })
})
