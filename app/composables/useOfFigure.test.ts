import { beforeEach, describe, expect, it, vi } from 'vitest'
import * as vue from 'vue'
import { useOfFigure } from './useOfFigure.ts'

const figure = vi.hoisted(() => ({ current: null as unknown as { view: unknown; recipe: { name: string } } }))
vi.mock('../stores/figure', () => ({ useFigure: () => figure.current }))
vi.mock('../stores/view', () => ({ useView: () => ({ target: { id: 'near' } }) }))
vi.mock('../workers', () => ({ unlessEnded: (answer: Promise<unknown>) => answer }))

/** Questions that wait for their answer. */
let asked: ((answer: string[]) => void)[] = []
const ask = () => new Promise<string[]>((answer) => asked.push(answer))
const bodyOf = (bones: number) => vue.markRaw({ bones: Array(bones).fill({}) })
const settled = () => new Promise((go) => setTimeout(go, 0))

/** What is told of a figure, wanted and told once. */
async function toldOnce() {
  const of = useOfFigure(ask)
  of.wanted.value = true
  await settled()
  asked[0]!(['first'])
  await settled()
  return of
}

beforeEach(() => {
  for (const name of ['ref', 'shallowRef', 'computed', 'watch'] as const) vi.stubGlobal(name, vue[name])
  figure.current = vue.reactive({ view: bodyOf(3), recipe: { name: 'Maren' } })
  asked = []
})

describe('what is told of a figure', () => {
  it('is asked for when it is wanted, and there at once when it is wanted again', async () => {
    const { told, wanted } = useOfFigure(ask)
    await settled()
    expect(asked).toHaveLength(0)
    wanted.value = true
    await settled()
    asked[0]!(['sitting'])
    await settled()
    expect(told.value).toEqual(['sitting'])
    wanted.value = false
    expect(told.value).toEqual([])
    await settled()
    wanted.value = true
    expect(told.value).toEqual(['sitting'])
    await settled()
    expect(told.value).toEqual(['sitting'])
    expect(asked).toHaveLength(1)
  })

  it('stays while the same figure is told of anew, and goes with other bones', async () => {
    const { told } = await toldOnce()
    figure.current.view = bodyOf(3)
    await settled()
    expect(told.value).toEqual(['first'])
    asked[1]!(['second'])
    await settled()
    expect(told.value).toEqual(['second'])
    figure.current.view = bodyOf(4)
    await settled()
    expect(told.value).toEqual([])
    asked[2]!(['third'])
    await settled()
    expect(told.value).toEqual(['third'])
  })

  it('is not that of a figure that has changed while nobody wanted to know', async () => {
    const { told, wanted } = await toldOnce()
    wanted.value = false
    await settled()
    figure.current.view = bodyOf(3)
    await settled()
    expect(asked).toHaveLength(1)
    wanted.value = true
    await settled()
    expect(told.value).toEqual([])
    asked[1]!(['second'])
    await settled()
    expect(told.value).toEqual(['second'])
  })

  it('is asked for again of one that comes back after another', async () => {
    const first = figure.current.view
    const { told, wanted } = await toldOnce()
    wanted.value = false
    for (const view of [bodyOf(4), first]) {
      figure.current.view = view
      await settled()
    }
    wanted.value = true
    await settled()
    asked[1]!(['first again'])
    await settled()
    expect(told.value).toEqual(['first again'])
  })

  it('that comes too late is not taken for another', async () => {
    const { told, wanted } = useOfFigure(ask)
    wanted.value = true
    await settled()
    figure.current.view = bodyOf(3)
    await settled()
    asked[1]!(['second'])
    await settled()
    asked[0]!(['first'])
    await settled()
    expect(told.value).toEqual(['second'])
    wanted.value = false
    await settled()
    figure.current.view = bodyOf(3)
    wanted.value = true
    await settled()
    wanted.value = false
    asked[2]!(['third'])
    await settled()
    wanted.value = true
    await settled()
    expect(told.value).toEqual([])
    expect(asked).toHaveLength(4)
  })
})
