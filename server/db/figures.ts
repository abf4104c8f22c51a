import { randomUUID } from 'node:crypto'
import { readRecipe, type Recipe } from '@idle-tinker/core'
import { change, select, transaction } from './pool.ts'

export interface FigureRow {
  id: string
  name: string
  version: number
  recipe: Recipe
  hasPicture: boolean
  savedAt: string
}

interface Stored extends Omit<FigureRow, 'recipe' | 'hasPicture'> {
  recipe: string | object
  hasPicture: number
}

const COLUMNS = 'id, name, version, recipe, picture IS NOT NULL AS hasPicture, saved_at AS savedAt'

/** A row as it is today: recipes of older versions are upgraded; what is none stays in its row, and is told. */
function read(row: Stored): FigureRow[] {
  const { value, problems } = readRecipe(row.recipe, `figures/${row.id}`)
  if (value) return [{ ...row, hasPicture: Boolean(row.hasPicture), recipe: value }]
  console.error(`figure ${row.id} (${row.name}) cannot be read: ${problems.map((p) => p.message).join(' ')}`)
  return []
}

export async function listFigures(deleted = false): Promise<FigureRow[]> {
  const rows = await select<Stored>(
    `SELECT ${COLUMNS} FROM figures WHERE deleted_at IS ${deleted ? 'NOT NULL' : 'NULL'} ORDER BY place, created_at`,
  )
  return rows.flatMap(read)
}

export async function getFigure(id: string): Promise<FigureRow | null> {
  const [row] = await select<Stored>(`SELECT ${COLUMNS} FROM figures WHERE id = ? AND deleted_at IS NULL`, [id])
  return row ? (read(row)[0] ?? null) : null
}

export async function addFigure(recipe: Recipe): Promise<FigureRow> {
  const id = randomUUID()
  const json = JSON.stringify(recipe)
  await transaction(async (on) => {
    const [last] = await select<{ place: number | null }>('SELECT MAX(place) AS place FROM figures', [], on)
    await change(
      'INSERT INTO figures (id, name, version, recipe, place) VALUES (?, ?, 1, ?, ?)',
      [id, recipe.name, json, (last?.place ?? 0) + 1],
      on,
    )
    await change('INSERT INTO figure_versions (figure_id, version, recipe) VALUES (?, 1, ?)', [id, json], on)
  })
  return (await getFigure(id))!
}

/** Saves over the version the person saw; null if another save came first or the figure is gone. */
export async function saveFigure(id: string, seen: number, recipe: Recipe): Promise<FigureRow | null> {
  const json = JSON.stringify(recipe)
  const saved = await transaction(async (on) => {
    const changed = await change(
      'UPDATE figures SET name = ?, recipe = ?, version = version + 1, saved_at = CURRENT_TIMESTAMP(3) WHERE id = ? AND version = ? AND deleted_at IS NULL',
      [recipe.name, json, id, seen],
      on,
    )
    if (changed === 1)
      await change(
        'INSERT INTO figure_versions (figure_id, version, recipe) VALUES (?, ?, ?)',
        [id, seen + 1, json],
        on,
      )
    return changed === 1
  })
  return saved ? getFigure(id) : null
}

export async function deleteFigure(id: string): Promise<boolean> {
  return (
    (await change('UPDATE figures SET deleted_at = CURRENT_TIMESTAMP(3) WHERE id = ? AND deleted_at IS NULL', [id])) ===
    1
  )
}

export async function restoreFigure(id: string): Promise<FigureRow | null> {
  await change('UPDATE figures SET deleted_at = NULL WHERE id = ?', [id])
  return getFigure(id)
}

export async function putPicture(id: string, png: Uint8Array): Promise<boolean> {
  return (await change('UPDATE figures SET picture = ? WHERE id = ?', [Buffer.from(png), id])) === 1
}

export async function getPicture(id: string): Promise<Buffer | null> {
  const [row] = await select<{ picture: Buffer | null }>('SELECT picture FROM figures WHERE id = ?', [id])
  return row?.picture ?? null
}
