import { describe, expect, it, vi } from 'vitest'
import { contentHash } from '@idle-tinker/core'
import type { ShipmentAbout } from '../../server/jobs/shipmentOrder'
import { changedSince, type Now } from './changedSince'

vi.stubGlobal('toRaw', (v: object) => v)

const figure = { name: 'Maren', sliders: { build: 0.5, height: 1 } }
const target = { id: 'far', name: 'Far', limits: { triangles: 250 } }
const about = (of: string | null = 'a'): ShipmentAbout => ({
  ...{
    name: 'Quay',
    formats: ['glb'],
    lods: false,
    insist: false,
    pattern: '',
    folders: '',
    date: '',
    file: 'quay.zip',
  },
  parcels: [{ kind: 'figure', name: 'Maren', of, hash: contentHash(figure) }],
  targets: [{ id: 'far', name: 'Far', hash: contentHash(target) }],
  kits: { folk: 'h1' },
})
const now = (more: Partial<Record<string, { id: string; content: object }[]>> = {}, hash = 'h1'): Now => {
  // members in another order are the same document
  const same = { sliders: { height: 1, build: 0.5 }, name: 'Maren' }
  const all = { figure: [{ id: 'a', content: same }], target: [{ id: 'far', content: target }], mix: [], picks: [] }
  return {
    documents: (kind) => ({ ...all, ...more })[kind],
    kits: new Map([['folk', { name: 'Quay Folk', hash }]]),
    workshop: '2.0.0',
  }
}

describe('what has changed since something shipped', () => {
  it('is nothing where all is as it was', () => {
    expect(changedSince(about(), now())).toEqual([])
  })

  it('names figures, targets and kits that are others now, and those that are gone', () => {
    const other = { ...figure, sliders: { build: 0.6, height: 1 } }
    expect(changedSince(about(), now({ figure: [{ id: 'a', content: other }] }))).toEqual(['Maren'])
    expect(changedSince(about(), now({ figure: [] }))).toEqual(['Maren, which is gone'])
    expect(changedSince(about(), now({ target: [{ id: 'far', content: { ...target, name: 'Farther' } }] }))).toEqual([
      'the target Far',
    ])
    expect(changedSince(about(), now({}, 'h2'))).toEqual(['the kit Quay Folk'])
    expect(changedSince(about(), { ...now(), kits: new Map() })).toEqual(['the kit folk, which is gone'])
  })

  it('names the workshop where that was another; of old ones nothing is known', () => {
    expect(changedSince({ ...about(), workshop: '2.0.0' }, now())).toEqual([])
    expect(changedSince({ ...about(), workshop: '1.9.0' }, now())).toEqual(['the workshop, then 1.9.0 and now 2.0.0'])
  })

  it('does not ask of what was of no document', () => {
    expect(changedSince(about(null), now({ figure: [] }))).toEqual([])
  })
})
