import { findKit, putKit } from '../../db/kits'
import { theReaders } from '../../jobs/readers'
import { bodyBytes, KIT_LIMIT, refuse } from '../../utils/answers'

/**
 * Takes a kit as a zip: kit.json and its GLB files, at the top or in one folder. Another one of its id is
 * replaced only when that is asked for: `?replace=true`.
 */
export default defineEventHandler(async (event) => {
  const { kit, problems } = await theReaders().openKit(await bodyBytes(event, KIT_LIMIT))
  if (!kit)
    throw refuse(
      422,
      'Not a kit',
      `It cannot be used; nothing was added. ${problems[0]?.message ?? ''}`.trim(),
      problems,
    )
  const { id, name, kitVersion, hash, files } = kit
  const there = await findKit(id)
  if (there && !there.removed && there.hash !== hash && getQuery(event).replace !== 'true')
    throw refuse(
      409,
      'There already',
      `The kit “${there.name}”, version ${there.kitVersion}, has the same id. Nothing was replaced.`,
    )
  // the same bytes again are the same kit, wherever they come from
  if (!there || there.removed || there.hash !== hash) await putKit({ id, name, kitVersion, hash, origin: 'own' }, files)
  return { id, problems }
})
