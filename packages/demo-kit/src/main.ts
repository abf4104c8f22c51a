import { mkdir, rm, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { folkKit } from './folk/kit.ts'
import { writeKit } from './writeKit.ts'

/** Makes every demo kit anew under kits/. */
const root = join(dirname(fileURLToPath(import.meta.url)), '../../..', 'kits')
for (const source of [folkKit()]) {
  const files = await writeKit(source)
  const folder = join(root, source.manifest.id)
  await rm(folder, { recursive: true, force: true })
  let bytes = 0
  for (const [path, content] of files) {
    await mkdir(dirname(join(folder, path)), { recursive: true })
    await writeFile(join(folder, path), content)
    bytes += content.length
  }
  console.log(`${source.manifest.id}: ${files.size} files, ${Math.round(bytes / 1024)} KB`)
}
