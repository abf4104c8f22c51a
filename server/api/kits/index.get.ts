import { listKitFiles, listKits } from '../../db/kits'

export default defineEventHandler(async () => {
  const kits = await listKits()
  return Promise.all(kits.map(async (kit) => ({ ...kit, files: await listKitFiles(kit.id) })))
})
