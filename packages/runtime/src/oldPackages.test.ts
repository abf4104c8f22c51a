import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect, it } from 'vitest'
import { readPicks } from '@idle-tinker/core'
import { DressedFigure, lookFromText, Wardrobe } from './index.ts'

/*
 * What was made with an older version still opens and is the same. These were written by the workshop of that time, the
 * numbers beside them measured by it; neither is ever made anew.
 */
const fixtures = fileURLToPath(new URL('../../../tests/fixtures/picks', import.meta.url))
const read = (path: string) => Promise.resolve(new Uint8Array(readFileSync(join(fixtures, 'v1-package', path))))

const kit = 'tide-creatures'
const SAVED: [text: string, parts: Record<string, string | null>, triangles: number][] = [
  ['BC9ACAgANrjXUIGGAAQ-S', { eyes: `${kit}/eyes-sly`, neck: null }, 1603],
  ['BC9ABAg5udgAgYsAOJR', { eyes: `${kit}/eyes-sly`, neck: `${kit}/scarf-striped` }, 1781],
  ['BC9ACAgIODgmMIWIAAdRX', { eyes: `${kit}/eyes-sly`, neck: `${kit}/frill` }, 1911],
]

it('opens packages of the first version, and looks that were saved with them', async () => {
  const { value, problems } = readPicks(readFileSync(join(fixtures, 'v1-old-loft.picks.json'), 'utf8'))
  expect([value!.id, value!.codes!.ofBody.ottern!.slots, problems]).toEqual(['old-loft', ['eyes', 'neck'], []])

  const { wardrobe, told } = await Wardrobe.open(read)
  expect(told).toEqual([])
  for (const [text, parts, triangles] of SAVED) {
    const saved = lookFromText(wardrobe!.manifest, text)
    expect([text, saved.told]).toEqual([text, []])
    const { figure } = await DressedFigure.open(wardrobe!, saved.look)
    expect([text, figure!.look.parts, figure!.costs.triangles]).toEqual([text, parts, triangles])
    figure!.dispose()
  }
})
