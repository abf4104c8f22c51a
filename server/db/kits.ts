import type { PoolConnection } from 'mysql2/promise'
import { getBlob, putBlob } from './blobs.ts'
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

/** How often a kit is read anew that is replaced meanwhile. */
const TRIES = 3

/** All files of a kit by their paths, as they were at one moment. */
export async function readKitFiles(kit: string): Promise<Map<string, Uint8Array>> {
  for (let n = 0; n < TRIES; n++) {
    const list = await listKitFiles(kit)
    const files = new Map<string, Uint8Array>()
    for (const { path, hash } of list) {
      const bytes = await getBlob(hash)
      // it has just been replaced
      if (!bytes) break
      files.set(path, bytes)
    }
    if (files.size === list.length) return files
  }
  throw new Error(`The files of the kit ${kit} are not all there.`)
}

/** The content hash of one file of a kit; null if it has none of that path. */
export async function kitFileHash(kit: string, path: string): Promise<string | null> {
  const [row] = await select<{ hash: string }>('SELECT hash FROM kit_files WHERE kit_id = ? AND path = ?', [kit, path])
  return row?.hash ?? null
}

/** What a kit was before it was changed or removed. */
export interface KitVersionRow {
  number: number
  name: string
  kitVersion: string
  hash: string
  keptAt: Date
}

/** So many are kept of a kit; the oldest leave. */
const MOST_VERSIONS = 20

/** What a kit was before, the latest first. */
export function listKitVersions(kit: string): Promise<KitVersionRow[]> {
  return select<KitVersionRow>(
    'SELECT number, name, kit_version AS kitVersion, hash, kept_at AS keptAt FROM kit_versions WHERE kit_id = ? ORDER BY number DESC',
    [kit],
  )
}

/** Kits that were removed, of which something is kept. */
export function listRemovedKits(): Promise<Pick<KitRow, 'id' | 'name' | 'kitVersion'>[]> {
  return select(
    `SELECT id, name, kit_version AS kitVersion FROM kits
     WHERE removed_at IS NOT NULL AND id IN (SELECT kit_id FROM kit_versions) ORDER BY removed_at DESC, id`,
  )
}

/** Locks a kit against others that would change it. @returns its hash; null if it is not here */
async function lock(kit: string, on: PoolConnection): Promise<string | null> {
  const [there] = await select<{ hash: string; removed: number }>(
    'SELECT hash, removed_at IS NOT NULL AS removed FROM kits WHERE id = ? FOR UPDATE',
    [kit],
    on,
  )
  return there && !there.removed ? there.hash : null
}

/** Keeps what a kit is now. */
async function keepVersion(kit: string, on: PoolConnection): Promise<void> {
  const [{ number }] = (await select<{ number: number }>(
    'SELECT COALESCE(MAX(number), 0) + 1 AS number FROM kit_versions WHERE kit_id = ?',
    [kit],
    on,
  )) as [{ number: number }]
  await change(
    `INSERT INTO kit_versions (kit_id, number, name, kit_version, hash)
     SELECT id, ?, name, kit_version, hash FROM kits WHERE id = ?`,
    [number, kit],
    on,
  )
  await change(
    `INSERT INTO kit_version_files (kit_id, number, path, hash)
     SELECT kit_id, ?, path, hash FROM kit_files WHERE kit_id = ?`,
    [number, kit],
    on,
  )
  await change('DELETE FROM kit_versions WHERE kit_id = ? AND number <= ?', [kit, number - MOST_VERSIONS], on)
}

/**
 * Adds a kit with all its files, or puts it in the place of the one of its id, which is kept as a version.
 *
 * @param over hash of the kit that it is made from: where another is here by now, nothing is changed
 * @returns whether it was put there
 */
export async function putKit(kit: KitRow, files: ReadonlyMap<string, Uint8Array>, over?: string): Promise<boolean> {
  const hashes: [string, string][] = []
  for (const [path, bytes] of files) hashes.push([path, await putBlob(bytes)])
  return transaction(async (on) => {
    const now = await lock(kit.id, on)
    if (over !== undefined && now !== over) return false
    if (now) await keepVersion(kit.id, on)
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
    return true
  })
}

/**
 * Makes a kit again what it was in a version; what it is now becomes a version. It is the person's own from then on.
 *
 * @returns whether there is such a version
 */
export async function restoreKit(kit: string, number: number): Promise<boolean> {
  return transaction(async (on) => {
    const now = await lock(kit, on)
    const [row] = await select<KitVersionRow>(
      'SELECT name, kit_version AS kitVersion, hash FROM kit_versions WHERE kit_id = ? AND number = ?',
      [kit, number],
      on,
    )
    if (!row) return false
    // before it is kept what it is now: the oldest may leave for that
    const files = await select<KitFileRow>(
      'SELECT path, hash FROM kit_version_files WHERE kit_id = ? AND number = ?',
      [kit, number],
      on,
    )
    if (now) await keepVersion(kit, on)
    await change(
      "UPDATE kits SET name = ?, kit_version = ?, hash = ?, origin = 'own', removed_at = NULL WHERE id = ?",
      [row.name, row.kitVersion, row.hash, kit],
      on,
    )
    await change('DELETE FROM kit_files WHERE kit_id = ?', [kit], on)
    for (const { path, hash } of files)
      await change('INSERT INTO kit_files (kit_id, path, hash) VALUES (?, ?, ?)', [kit, path, hash], on)
    return true
  })
}

/**
 * Takes a kit and its files out and keeps them as a version; that it was there is remembered, so that one of the demo
 * does not come back.
 */
export async function removeKit(id: string): Promise<boolean> {
  return transaction(async (on) => {
    if (!(await lock(id, on))) return false
    await keepVersion(id, on)
    await change('DELETE FROM kit_files WHERE kit_id = ?', [id], on)
    await change('UPDATE kits SET removed_at = CURRENT_TIMESTAMP(3) WHERE id = ?', [id], on)
    return true
  })
}

/** Forgets all that a removed kit was, for good. */
export async function forgetKit(id: string): Promise<boolean> {
  const dropped = await change(
    'DELETE FROM kit_versions WHERE kit_id = (SELECT id FROM kits WHERE id = ? AND removed_at IS NOT NULL)',
    [id],
  )
  return dropped > 0
}
