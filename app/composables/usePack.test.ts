import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, effectScope, nextTick, ref, shallowRef, watch, type Ref } from 'vue'
import { usePack } from './usePack'

const { sortPack, packKit, loadKits } = vi.hoisted(() => ({ sortPack: vi.fn(), packKit: vi.fn(), loadKits: vi.fn() }))
vi.mock('../workers', () => ({
  workshop: () => ({ sortPack, packKit, loadKits }),
  endWorker: () => undefined,
  onWorkerEnd: () => () => undefined,
  POOL: [],
}))

/** A pack that lies in a unit. */
const lying = (unit: string) => ({ sorted: { pieces: [], apart: [], figure: null, unit }, problems: [] })
let pack: ReturnType<typeof usePack>
let body: Ref<string>

beforeEach(async () => {
  setActivePinia(createPinia())
  for (const [name, value] of Object.entries({ computed, ref, shallowRef, watch })) vi.stubGlobal(name, value)
  vi.stubGlobal('onBeforeUnmount', () => undefined)
  vi.stubGlobal('location', { origin: 'http://here' })
  sortPack.mockReset().mockResolvedValue(lying('m'))
  packKit.mockReset().mockResolvedValue({ zip: new Uint8Array(3), problems: [] })
  body = ref('folk/human')
  pack = effectScope().run(() => usePack(body))!
  pack.open([new File(['x'], 'set.obj')])
  await vi.waitFor(() => expect(pack.busy.value).toBe(''))
})
const unit = () => (pack.sorted.value as unknown as { unit: string }).unit

describe('a pack that is said to lie otherwise', () => {
  it('is busy from that moment on, until it is sorted anew: no kit is made of what was', async () => {
    for (const change of [
      () => pack.give({ unit: 'cm' }),
      () => pack.setApart('a', true),
      () => (body.value = 'tide/ottern'),
    ]) {
      sortPack.mockClear()
      change()
      await nextTick()
      expect([pack.busy.value, sortPack.mock.calls.length]).toEqual(['Sorting …', 0])
      await vi.waitFor(() => expect(pack.busy.value).toBe(''))
      expect(sortPack).toHaveBeenCalledOnce()
    }
  })

  it('takes no answer that was asked for before', async () => {
    let answer: (value: unknown) => void = () => undefined
    sortPack.mockImplementationOnce(() => new Promise((resolve) => (answer = resolve)))
    pack.give({ unit: 'inch' })
    await vi.waitFor(() => expect(sortPack).toHaveBeenCalledTimes(2))
    sortPack.mockResolvedValue(lying('cm'))
    pack.give({ unit: 'cm' })
    answer(lying('inch'))
    await nextTick()
    expect([pack.busy.value, unit()]).toEqual(['Sorting …', 'm'])
    await vi.waitFor(() => expect(pack.busy.value).toBe(''))
    expect(unit()).toBe('cm')
  })
})
