import { getJob } from '../../../../db/jobs'
import { refuse, routeId, UUID } from '../../../../utils/answers'
import { entryOf } from '../../../../utils/zipEntries'

const TYPES: Readonly<Record<string, string>> = {
  json: 'application/json',
  glb: 'model/gltf-binary',
  png: 'image/png',
}

/** One file of the zip that a job came to: a package as a game loads it. */
export default defineEventHandler(async (event) => {
  const job = await getJob(routeId(event, 'id', UUID))
  if (!job?.resultHash) throw refuse(404, 'Not found', 'The job has no file yet.')
  const path = event.context.params?.path ?? ''
  const bytes = await entryOf(job.resultHash, path)
  if (!bytes) throw refuse(404, 'Not found', `There is no “${path}” in it.`)
  setResponseHeaders(event, {
    'content-type': TYPES[path.split('.').at(-1)!] ?? 'application/octet-stream',
    // what a job came to never changes
    'cache-control': 'private, max-age=31536000, immutable',
  })
  return bytes
})
