import crc from 'crc-32'
import { unzipSync } from 'fflate'
import { problem, type Read } from './problem.ts'

/** More than any kit or pack needs, and little enough for any machine. */
const MOST = { files: 5_000, bytes: 256 << 20, path: 200 }
const DIRECTORY_ENTRY = 0x02014b50
const DIRECTORY_END = 0x06054b50

/**
 * The files in a zip by path. Checksums are checked; what would unpack to too much is refused before it is unpacked.
 *
 * @param noun what it should hold, as people are told: "kit"
 */
export function unpackZip(zip: Uint8Array, noun: string): Read<Map<string, Uint8Array>> {
  const refuse = (code: string, message: string, remedy: string): Read<Map<string, Uint8Array>> => ({
    value: null,
    problems: [problem(code, 'zip', message, remedy)],
  })
  const again = 'Pack it again.'
  const checksums = readDirectory(zip)
  if (!checksums) return refuse('zip-broken', 'The file cannot be opened as a zip.', again)
  if (checksums.size > MOST.files)
    return refuse(
      `${noun}-large`,
      `It holds ${checksums.size} files; a ${noun} may have ${MOST.files}.`,
      `Split the ${noun}.`,
    )
  let [unpacked, tooLarge] = [0, false]
  let entries: Record<string, Uint8Array>
  try {
    entries = unzipSync(zip, {
      filter: ({ name, size, originalSize, compression }) => {
        // what is stored comes out as it lies there, whatever it says of itself
        unpacked += Math.max(originalSize, compression === 0 ? size : 0)
        tooLarge ||= unpacked > MOST.bytes
        return !tooLarge && !name.endsWith('/')
      },
    })
  } catch (error) {
    return refuse(
      'zip-broken',
      `The file cannot be unpacked: ${error instanceof Error ? error.message : 'unknown'}.`,
      again,
    )
  }
  if (tooLarge) return refuse(`${noun}-large`, `It unpacks to more than ${MOST.bytes >> 20} MB.`, `Split the ${noun}.`)
  for (const [name, bytes] of Object.entries(entries)) {
    if (checksums.get(name) !== crc.buf(bytes) >>> 0)
      return refuse('zip-damaged', `“${name}” is damaged: its checksum is not right.`, 'Copy or pack it again.')
    if (name.length > MOST.path)
      return refuse('path-long', `The path “${name.slice(0, 60)}…” is longer than ${MOST.path} letters.`, 'Shorten it.')
  }
  return { value: new Map(Object.entries(entries)), problems: [] }
}

/** The checksums a zip's directory gives for its files, by name; null if there is no directory. */
function readDirectory(zip: Uint8Array): Map<string, number> | null {
  const view = new DataView(zip.buffer, zip.byteOffset, zip.byteLength)
  let end = zip.length - 22
  // a comment of up to 64 KB may follow
  for (const least = Math.max(0, end - 0xffff); end >= least && view.getUint32(end, true) !== DIRECTORY_END;) end--
  if (end < 0 || view.getUint32(end, true) !== DIRECTORY_END) return null
  const checksums = new Map<string, number>()
  let at = view.getUint32(end + 16, true)
  for (let left = view.getUint16(end + 10, true); left > 0; left--) {
    if (at + 46 > zip.length || view.getUint32(at, true) !== DIRECTORY_ENTRY) return null
    const [name, extra, comment] = [28, 30, 32].map((o) => view.getUint16(at + o, true)) as [number, number, number]
    // fflate reads names that say they are not UTF-8 as Latin letters
    const bytes = zip.subarray(at + 46, at + 46 + name)
    const isUtf8 = (view.getUint16(at + 8, true) & 0x800) !== 0
    const text = isUtf8 ? new TextDecoder().decode(bytes) : String.fromCharCode(...bytes)
    checksums.set(text, view.getUint32(at + 16, true))
    at += 46 + name + extra + comment
  }
  return checksums
}
