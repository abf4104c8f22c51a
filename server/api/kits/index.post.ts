import { hasErrors, readKit, unpackKit } from '@idle-tinker/core'
import { putKit } from '../../db/kits'
import { bodyBytes, KIT_LIMIT, refuse } from '../../utils/answers'

/** Takes a kit as a zip: kit.json and its GLB files, at the top or in one folder. */
export default defineEventHandler(async (event) => {
  const bytes = await bodyBytes(event, KIT_LIMIT)
  const { value: files, problems: faults } = unpackKit(new Uint8Array(bytes))
  if (!files) throw refuse(422, 'Not a kit', faults.map((p) => p.message).join(' '), faults)
  const { value: kit, problems } = await readKit(files)
  // of a kit that brings bodies one must be whole; one of parts alone needs a part
  const usable = kit && (kit.manifest.bodies.length ? kit.bodies.size : kit.parts.size) > 0
  if (!kit || (hasErrors(problems) && !usable))
    throw refuse(422, 'Not a kit', 'The kit cannot be used; nothing was added.', problems)
  await putKit(
    { id: kit.manifest.id, name: kit.manifest.name, kitVersion: kit.manifest.kitVersion, hash: kit.hash },
    files,
  )
  return { id: kit.manifest.id, problems }
})
