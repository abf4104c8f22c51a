import { hasErrors, readKit, unpackKit } from '@idle-tinker/core'
import { findKit, putKit } from '../../db/kits'
import { bodyBytes, KIT_LIMIT, refuse } from '../../utils/answers'

/**
 * Takes a kit as a zip: kit.json and its GLB files, at the top or in one folder. Another one of its id is
 * replaced only when that is asked for: `?replace=true`.
 */
export default defineEventHandler(async (event) => {
  const bytes = await bodyBytes(event, KIT_LIMIT)
  const { value: files, problems: faults } = unpackKit(new Uint8Array(bytes))
  if (!files) throw refuse(422, 'Not a kit', faults.map((p) => p.message).join(' '), faults)
  const { value: kit, problems } = await readKit(files)
  // of a kit that brings bodies one must be whole; one of parts alone needs a part
  const usable = kit && (kit.manifest.bodies.length ? kit.bodies.size : kit.parts.size) > 0
  if (!kit || (hasErrors(problems) && !usable))
    throw refuse(422, 'Not a kit', 'The kit cannot be used; nothing was added.', problems)
  const { id, name, kitVersion } = kit.manifest
  const there = await findKit(id)
  if (there && !there.removed && there.hash !== kit.hash && getQuery(event).replace !== 'true')
    throw refuse(
      409,
      'There already',
      `The kit “${there.name}”, version ${there.kitVersion}, has the same id. Nothing was replaced.`,
    )
  // the same bytes again are the same kit, wherever they come from
  if (!there || there.removed || there.hash !== kit.hash)
    await putKit({ id, name, kitVersion, hash: kit.hash, origin: 'own' }, files)
  return { id, problems }
})
