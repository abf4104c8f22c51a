import { putBlob } from './blobs.ts'
import { change, select, transaction } from './pool.ts'

export interface KitRow {
  id: string
  name: string
  kitVersion: string
  hash: string
  /** Whether it came with the workshop or from the person. */
  origin: 'demo' | 'own'
}

const COLUMNS = 'id, name, kit_version AS kitVersion, hash, origin'

export function listKits(): Promise<KitRow[]> {
  return select<KitRow>(`SELECT ${COLUMNS} FROM kits WHERE removed_at IS NULL ORDER BY added_at, id`)
}

/** A kit of an id, also one that was removed. */
export async function findKit(id: string): Promise<(KitRow & { removed: boolean }) | null> {
  const [row] = await select<KitRow & { removed: number }>(
    `SELECT ${COLUMNS}, removed_at IS NOT NULL AS removed FROM kits WHERE id = ?`,
    [id],
  )
  return row ? { ...row, removed: Boolean(row.removed) } : null
}

export interface KitFileRow {
  path: string
  hash: string
}

export function listKitFiles(kit: string): Promise<KitFileRow[]> {
  return select<KitFileRow>('SELECT path, hash FROM kit_files WHERE kit_id = ? ORDER BY path', [kit])
}

/** The content hash of one file of a kit; null if it has none of that path. */
export async function kitFileHash(kit: string, path: string): Promise<string | null> {
  const [row] = await select<{ hash: string }>('SELECT hash FROM kit_files WHERE kit_id = ? AND path = ?', [kit, path])
  return row?.hash ?? null
}

/** Adds a kit with all its files, or puts it in the place of the one of its id. */
export async function putKit(kit: KitRow, files: ReadonlyMap<string, Uint8Array>): Promise<void> {
  const hashes: [string, string][] = []
  for (const [path, bytes] of files) hashes.push([path, await putBlob(bytes)])
  await transaction(async (on) => {
    await change(
      `INSERT INTO kits (id, name, kit_version, hash, origin) VALUES (?, ?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE name = VALUES(name), kit_version = VALUES(kit_version), hash = VALUES(hash),
         origin = VALUES(origin), removed_at = NULL`,
      [kit.id, kit.name, kit.kitVersion, kit.hash, kit.origin],
      on,
    )
    await change('DELETE FROM kit_files WHERE kit_id = ?', [kit.id], on)
    for (const [path, hash] of hashes)
      await change('INSERT INTO kit_files (kit_id, path, hash) VALUES (?, ?, ?)', [kit.id, path, hash], on)
  })
}

/** Takes a kit and its files out; that it was there is remembered, so that one of the demo does not come back. */
export async function removeKit(id: string): Promise<boolean> {
  return transaction(async (on) => {
    await change('DELETE FROM kit_files WHERE kit_id = ?', [id], on)
    const gone = await change(
      'UPDATE kits SET removed_at = CURRENT_TIMESTAMP(3) WHERE id = ? AND removed_at IS NULL',
      [id],
      on,
    )
    return gone === 1
  })
}
