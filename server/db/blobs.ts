import { createHash } from 'node:crypto'
import { change, select, transaction } from './pool.ts'

const CHUNK = 1 << 20

/** Stores bytes under their content hash, in chunks; storing them again costs one query. */
export async function putBlob(bytes: Uint8Array): Promise<string> {
  const hash = createHash('sha256').update(bytes).digest('hex')
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
