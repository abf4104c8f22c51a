import { unzipSync } from 'fflate'
import { hasErrors, readKit } from '@idle-tinker/core'
import { putKit } from '../../db/kits'
import { bodyBytes, KIT_LIMIT, refuse } from '../../utils/answers'

/** What the database has room for. */
const PATH_LIMIT = 200

/** Takes a kit as a zip: kit.json and its GLB files, at the top or in one folder. */
export default defineEventHandler(async (event) => {
  const bytes = await bodyBytes(event, KIT_LIMIT)
  let entries: Record<string, Uint8Array>
  let unpacked = 0
  try {
    entries = unzipSync(new Uint8Array(bytes), {
      filter: (file) => {
        unpacked += file.originalSize
        if (unpacked > 4 * KIT_LIMIT) throw new Error('it unpacks to too much')
        return !file.name.endsWith('/')
      },
    })
  } catch (error) {
    throw refuse(
      422,
      'Not a kit',
      `The file cannot be opened as a zip: ${error instanceof Error ? error.message : 'unknown'}.`,
    )
  }
  const top =
    Object.keys(entries)
      .find((p) => p === 'kit.json' || p.endsWith('/kit.json'))
      ?.replace(/kit\.json$/, '') ?? ''
  const files = new Map(
    Object.entries(entries)
      .filter(([p]) => p.startsWith(top))
      .map(([p, b]) => [p.slice(top.length), b]),
  )
  const long = [...files.keys()].find((path) => path.length > PATH_LIMIT)
  if (long) throw refuse(422, 'Not a kit', `The path “${long.slice(0, 60)}…” is longer than ${PATH_LIMIT} letters.`)
  const { value: kit, problems } = await readKit(files)
  if (!kit || (hasErrors(problems) && kit.bodies.size === 0))
    throw refuse(422, 'Not a kit', 'The kit cannot be used; nothing was added.', problems)
  await putKit(
    { id: kit.manifest.id, name: kit.manifest.name, kitVersion: kit.manifest.kitVersion, hash: kit.hash },
    files,
  )
  return { id: kit.manifest.id, problems }
})
