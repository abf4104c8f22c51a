import { createHash } from 'node:crypto'
import { change, select, transaction } from './pool.ts'

const CHUNK = 1 << 20

/** Stores bytes under their content hash, in chunks; storing them again costs one query. */
export async function putBlob(bytes: Uint8Array): Promise<string> {
  const sum = createHash('sha256')
  for (let at = 0; at < bytes.length; at += CHUNK) {
    sum.update(bytes.subarray(at, at + CHUNK))
    // of many megabytes, one a turn
    await new Promise((resolve) => setImmediate(resolve))
  }
  const hash = sum.digest('hex')
  await transaction(async (on) => {
    const fresh = await change('INSERT IGNORE INTO blobs (hash, bytes) VALUES (?, ?)', [hash, bytes.length], on)
    if (!fresh) return
    for (let i = 0, at = 0; at < bytes.length; i++, at += CHUNK)
      await change(
        'INSERT INTO blob_chunks (hash, position, data) VALUES (?, ?, ?)',
        [hash, i, Buffer.from(bytes.subarray(at, at + CHUNK))],
        on,
      )
  })
  return hash
}

/** The bytes of a hash, or null. */
export async function getBlob(hash: string): Promise<Buffer | null> {
  const [blob] = await select<{ bytes: number }>('SELECT bytes FROM blobs WHERE hash = ?', [hash])
  if (!blob) return null
  const chunks = await select<{ data: Buffer }>('SELECT data FROM blob_chunks WHERE hash = ? ORDER BY position', [hash])
  return Buffer.concat(chunks.map((c) => c.data))
}

/** How many bytes a hash stands for; null if they are not here. */
export async function blobLength(hash: string): Promise<number | null> {
  const [blob] = await select<{ bytes: number }>('SELECT bytes FROM blobs WHERE hash = ?', [hash])
  return blob?.bytes ?? null
}

/**
 * The bytes of a hash, a chunk at a time: never more than one in memory. Throws if they have left meanwhile.
 *
 * @param length how many there are
 */
export async function* readBlob(hash: string, length: number): AsyncGenerator<Buffer> {
  for (let position = 0; position * CHUNK < length; position++) {
    const [chunk] = await select<{ data: Buffer }>('SELECT data FROM blob_chunks WHERE hash = ? AND position = ?', [
      hash,
      position,
    ])
    if (!chunk) throw new Error(`chunk ${position} of ${hash} is gone`)
    yield chunk.data
  }
}

/** Removes bytes that were kept for something that is not wanted any more, unless something else points to them. */
export async function dropBlob(hash: string): Promise<void> {
  await change(
    `DELETE FROM blobs WHERE hash = ?
       AND hash NOT IN (SELECT hash FROM kit_files)
       AND hash NOT IN (SELECT hash FROM kit_version_files)
       AND hash NOT IN (SELECT result_hash FROM jobs WHERE result_hash IS NOT NULL)
       AND hash NOT IN (SELECT hash FROM job_pieces WHERE hash IS NOT NULL)`,
    [hash],
  )
}

/**
 * Removes the bytes that nothing points to any more. Fresh ones are spared: what they are for may
 * just be on its way.
 *
 * @param age minutes
 * @returns how many left
 */
export function sweepBlobs(age = 60): Promise<number> {
  return change(
    `DELETE FROM blobs
     WHERE created_at <= CURRENT_TIMESTAMP(3) - INTERVAL ? MINUTE
       AND hash NOT IN (SELECT hash FROM kit_files)
       AND hash NOT IN (SELECT hash FROM kit_version_files)
       AND hash NOT IN (SELECT result_hash FROM jobs WHERE result_hash IS NOT NULL)
       AND hash NOT IN (SELECT hash FROM job_pieces WHERE hash IS NOT NULL)`,
    [age],
  )
}
