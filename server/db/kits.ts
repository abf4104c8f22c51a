import { putBlob } from './blobs.ts'
import { change, select, transaction } from './pool.ts'

export interface KitRow {
  id: string
  name: string
  kitVersion: string
  hash: string
}

export function listKits(): Promise<KitRow[]> {
  return select<KitRow>('SELECT id, name, kit_version AS kitVersion, hash FROM kits ORDER BY added_at, id')
}

export interface KitFileRow {
  path: string
  hash: string
}

export function listKitFiles(kit: string): Promise<KitFileRow[]> {
  return select<KitFileRow>('SELECT path, hash FROM kit_files WHERE kit_id = ? ORDER BY path', [kit])
}

/** Adds or replaces a kit with all its files. */
export async function putKit(kit: KitRow, files: ReadonlyMap<string, Uint8Array>): Promise<void> {
  const hashes: [string, string][] = []
  for (const [path, bytes] of files) hashes.push([path, await putBlob(bytes)])
  await transaction(async (on) => {
    await change(
      'INSERT INTO kits (id, name, kit_version, hash) VALUES (?, ?, ?, ?) ON DUPLICATE KEY UPDATE name = VALUES(name), kit_version = VALUES(kit_version), hash = VALUES(hash)',
      [kit.id, kit.name, kit.kitVersion, kit.hash],
      on,
    )
    await change('DELETE FROM kit_files WHERE kit_id = ?', [kit.id], on)
    for (const [path, hash] of hashes)
      await change('INSERT INTO kit_files (kit_id, path, hash) VALUES (?, ?, ?)', [kit.id, path, hash], on)
  })
}
