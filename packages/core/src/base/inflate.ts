/**
 * Unpacks a raw deflate stream (RFC 1951) by what the platform itself brings: several times as fast as a script, which
 * a process that has just begun would wait for.
 *
 * @param most so many bytes at the most
 * @throws if it is damaged, or comes to more
 */
export async function inflate(packed: Uint8Array, most: number): Promise<Uint8Array<ArrayBuffer>> {
  const stream = new Blob([packed as Uint8Array<ArrayBuffer>])
    .stream()
    .pipeThrough(new DecompressionStream('deflate-raw'))
  const reader = stream.getReader()
  const chunks: Uint8Array[] = []
  let size = 0
  for (let next = await reader.read(); next.value; next = await reader.read()) {
    chunks.push(next.value)
    size += next.value.length
    if (size <= most) continue
    await reader.cancel()
    throw new RangeError(`more than ${most} bytes`)
  }
  const whole = new Uint8Array(size)
  let at = 0
  for (const chunk of chunks) {
    whole.set(chunk, at)
    at += chunk.length
  }
  return whole
}
