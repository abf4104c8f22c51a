import { readMix, type Mix } from '@idle-tinker/core'
import { change, select } from './pool.ts'

export interface MixRow {
  id: string
  version: number
  mix: Mix
}

export async function listMixes(): Promise<MixRow[]> {
  const rows = await select<{ id: string; version: number; mix: string | object }>(
    'SELECT id, version, mix FROM mixes ORDER BY place, id',
  )
  return rows.flatMap(({ id, version, mix }) => {
    const { value, problems } = readMix(mix, `mixes/${id}`)
    if (value) return [{ id, version, mix: value }]
    console.error(`mix ${id} cannot be read: ${problems.map((p) => p.message).join(' ')}`)
    return []
  })
}

export async function addMix(mix: Mix, place: number): Promise<void> {
  await change('INSERT IGNORE INTO mixes (id, name, version, mix, place) VALUES (?, ?, 1, ?, ?)', [
    mix.id,
    mix.name,
    JSON.stringify(mix),
    place,
  ])
}

/** Saves over the version the person saw; false if another save came first. */
export async function saveMix(mix: Mix, seen: number): Promise<boolean> {
  return (
    (await change(
      'UPDATE mixes SET name = ?, mix = ?, version = version + 1, saved_at = CURRENT_TIMESTAMP(3) WHERE id = ? AND version = ?',
      [mix.name, JSON.stringify(mix), mix.id, seen],
    )) === 1
  )
}
