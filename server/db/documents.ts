import { randomUUID } from 'node:crypto'
import { theReaders } from '../jobs/readers.ts'
import type { DocumentText, SaveBody } from '../utils/bodies.ts'
import { KINDS, type Kind } from '../utils/kinds.ts'
import { change, select, transaction } from './pool.ts'

export interface DocumentRow {
  id: string
  name: string
  version: number
  hasPicture: boolean
  savedAt: string
  /** The document as JSON text, of today's version. */
  content: string
}

interface Stored extends Omit<DocumentRow, 'hasPicture'> {
  hasPicture: number
}

const COLUMNS = 'id, name, version, content, picture IS NOT NULL AS hasPicture, saved_at AS savedAt'

/** A row as it is today: documents of older versions are upgraded; what is none stays in its row, and is told. */
async function asToday(kind: Kind, row: Stored): Promise<DocumentRow[]> {
  const { value, refusal } = await theReaders().readBody('row', kind, row.content)
  if (!refusal) return [{ ...row, hasPicture: Boolean(row.hasPicture), content: value.text }]
  // that it could not be read now says nothing of it
  if (!refusal.problems.length) throw new Error(`${kind} ${row.id}: ${refusal.detail}`)
  console.error(`${kind} ${row.id} (${row.name}) cannot be read: ${refusal.problems.map((p) => p.message).join(' ')}`)
  return []
}

/** Those that are there, or those that were deleted, in their order. */
export async function listDocuments(kind: Kind, deleted = false): Promise<DocumentRow[]> {
  const rows = await select<Stored>(
    `SELECT ${COLUMNS} FROM documents WHERE kind = ? AND deleted_at IS ${deleted ? 'NOT NULL' : 'NULL'} ORDER BY place, created_at, id`,
    [kind],
  )
  const read: DocumentRow[] = []
  // one after another: all at once they would be read in one go, and everyone else would wait
  for (const row of rows) read.push(...(await asToday(kind, row)))
  return read
}

/** How many there have ever been of a kind, deleted ones among them. */
export async function countDocuments(kind: Kind): Promise<number> {
  const [row] = await select<{ n: number | string }>('SELECT COUNT(*) AS n FROM documents WHERE kind = ?', [kind])
  return Number(row?.n ?? 0)
}

export async function getDocument(kind: Kind, id: string): Promise<DocumentRow | null> {
  const [row] = await select<Stored>(
    `SELECT ${COLUMNS} FROM documents WHERE kind = ? AND id = ? AND deleted_at IS NULL`,
    [kind, id],
  )
  return row ? ((await asToday(kind, row))[0] ?? null) : null
}

/** Adds a document, last in order; null if there is one of its id, deleted or not. */
export async function addDocument(kind: Kind, { id: own, name, text }: DocumentText): Promise<DocumentRow | null> {
  const id = own ?? randomUUID()
  const added = await transaction(async (on) => {
    const count = await change(
      `INSERT IGNORE INTO documents (kind, id, name, version, content, place)
       SELECT ?, ?, ?, 1, ?, COALESCE(MAX(place), 0) + 1 FROM documents WHERE kind = ?`,
      [kind, id, name, text, kind],
      on,
    )
    if (count === 1 && KINDS[kind].versions)
      await change(
        'INSERT INTO document_versions (kind, id, version, content) VALUES (?, ?, 1, ?)',
        [kind, id, text],
        on,
      )
    return count === 1
  })
  return added ? getDocument(kind, id) : null
}

/** Whether a save is the one that is named, or an earlier one of the same writer. */
function covers(mark: string, token: string | null): boolean {
  if (token === null || mark === token) return mark === token
  const [writer, last] = mark.split('.')
  const [by, number] = token.split('.')
  return by === writer && Number(number) <= Number(last)
}

/** Saves over the version the person saw; null if another save came first or the document is gone. */
export async function saveDocument(
  kind: Kind,
  id: string,
  { version, name, text, token, after }: Omit<SaveBody, 'id'>,
): Promise<DocumentRow | null> {
  const saved = await transaction(async (on) => {
    // by its key, whatever the database thinks best: by any other index its neighbours are locked as well
    const [row] = await select<{ version: number; token: string | null; gone: number }>(
      'SELECT version, token, deleted_at IS NOT NULL AS gone FROM documents FORCE INDEX (PRIMARY) WHERE kind = ? AND id = ? FOR UPDATE',
      [kind, id],
      on,
    )
    if (!row || row.gone) return false
    const mine = row.version === version || after.some((mark) => covers(mark, row.token))
    if (!mine) return false
    const next = row.version + 1
    await change(
      'UPDATE documents FORCE INDEX (PRIMARY) SET name = ?, content = ?, version = ?, token = ?, saved_at = CURRENT_TIMESTAMP(3) WHERE kind = ? AND id = ?',
      [name, text, next, token, kind, id],
      on,
    )
    if (KINDS[kind].versions)
      await change(
        'INSERT INTO document_versions (kind, id, version, content) VALUES (?, ?, ?, ?)',
        [kind, id, next, text],
        on,
      )
    return true
  })
  return saved ? getDocument(kind, id) : null
}

export type Deletion = 'deleted' | 'missing' | 'last'

/** Puts a document away; it can be brought back. The last of a kind that is needed stays. */
export async function deleteDocument(kind: Kind, id: string): Promise<Deletion> {
  return transaction(async (on) => {
    const there = await select<{ id: string }>(
      'SELECT id FROM documents WHERE kind = ? AND deleted_at IS NULL FOR UPDATE',
      [kind],
      on,
    )
    if (!there.some((row) => row.id === id)) return 'missing'
    if (KINDS[kind].needsOne !== null && there.length === 1) return 'last'
    await change(
      'UPDATE documents FORCE INDEX (PRIMARY) SET deleted_at = CURRENT_TIMESTAMP(3) WHERE kind = ? AND id = ?',
      [kind, id],
      on,
    )
    return 'deleted'
  })
}

export async function restoreDocument(kind: Kind, id: string): Promise<DocumentRow | null> {
  await change('UPDATE documents FORCE INDEX (PRIMARY) SET deleted_at = NULL WHERE kind = ? AND id = ?', [kind, id])
  return getDocument(kind, id)
}

export async function putPicture(kind: Kind, id: string, png: Uint8Array): Promise<boolean> {
  return (
    (await change('UPDATE documents FORCE INDEX (PRIMARY) SET picture = ? WHERE kind = ? AND id = ?', [
      Buffer.from(png),
      kind,
      id,
    ])) === 1
  )
}

export async function getPicture(kind: Kind, id: string): Promise<Buffer | null> {
  const [row] = await select<{ picture: Buffer | null }>('SELECT picture FROM documents WHERE kind = ? AND id = ?', [
    kind,
    id,
  ])
  return row?.picture ?? null
}

/** So many steps back are kept, however long ago they were; and as many bytes of them are sent. */
const LAST_VERSIONS = 200
const VERSION_BYTES = 4 << 20

/** The last versions of a document that is there, the oldest first, each as the JSON text that was saved then. */
export async function listVersions(kind: Kind, id: string): Promise<string[]> {
  const rows = await select<{ content: string }>(
    `SELECT content FROM (
       SELECT v.version, v.content, SUM(LENGTH(v.content)) OVER (ORDER BY v.version DESC) AS bytes
       FROM document_versions v JOIN documents d ON d.kind = v.kind AND d.id = v.id AND d.deleted_at IS NULL
       WHERE v.kind = ? AND v.id = ? ORDER BY v.version DESC LIMIT ${LAST_VERSIONS + 1}
     ) AS last WHERE bytes <= ${VERSION_BYTES} ORDER BY version`,
    [kind, id],
  )
  return rows.map(({ content }) => content)
}

/**
 * Of versions older than a day and than the last steps only the last of each day stays.
 *
 * @returns how many left
 */
export function thinVersions(): Promise<number> {
  return change(
    `DELETE old FROM document_versions old
     JOIN documents d ON d.kind = old.kind AND d.id = old.id AND old.version + ${LAST_VERSIONS} < d.version
     JOIN document_versions later
       ON later.kind = old.kind AND later.id = old.id AND later.version > old.version
      AND DATE(later.saved_at) = DATE(old.saved_at)
     WHERE old.saved_at < CURRENT_TIMESTAMP(3) - INTERVAL 1 DAY`,
  )
}
