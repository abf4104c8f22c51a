import { readTarget, type Target } from '@idle-tinker/core'
import { change, select } from './pool.ts'

export interface TargetRow {
  id: string
  version: number
  target: Target
}

/** The targets in the order they were added; one that cannot be read stays in its row, and is told. */
export async function listTargets(): Promise<TargetRow[]> {
  const rows = await select<{ id: string; version: number; target: string | object }>(
    'SELECT id, version, target FROM targets ORDER BY place, id',
  )
  return rows.flatMap(({ id, version, target }) => {
    const { value, problems } = readTarget(target, `targets/${id}`)
    if (value) return [{ id, version, target: value }]
    console.error(`target ${id} cannot be read: ${problems.map((p) => p.message).join(' ')}`)
    return []
  })
}

/** Adds a target, last in order; false if there is one of its id. */
export async function addTarget(target: Target): Promise<boolean> {
  const added = await change(
    `INSERT IGNORE INTO targets (id, name, version, target, place)
     SELECT ?, ?, 1, ?, COALESCE(MAX(place), 0) + 1 FROM targets`,
    [target.id, target.name, JSON.stringify(target)],
  )
  return added === 1
}

/** Saves over the version the person saw; false if another save came first. */
export async function saveTarget(target: Target, seen: number): Promise<boolean> {
  const changed = await change(
    'UPDATE targets SET name = ?, target = ?, version = version + 1, saved_at = CURRENT_TIMESTAMP(3) WHERE id = ? AND version = ?',
    [target.name, JSON.stringify(target), target.id, seen],
  )
  return changed === 1
}

export async function deleteTarget(id: string): Promise<boolean> {
  return (await change('DELETE FROM targets WHERE id = ?', [id])) === 1
}
