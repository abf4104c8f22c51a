// Starting from TypeScript sources takes seconds, in every thread anew: they are bundled once.
import { createHash } from 'node:crypto'
import { existsSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs'
import { basename, dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

const root = join(dirname(fileURLToPath(import.meta.url)), '../../..')
const SOURCES = [
  'packages/core/src',
  'packages/kept/src',
  'packages/runtime/src',
  'packages/tryout/src',
  'packages/cli/src',
  'packages/cli/bin',
  'scripts/bundle.mjs',
  'scripts/checks.mjs',
  'package-lock.json',
]

/** Changes when any source does. */
function stampOf(sources) {
  const hash = createHash('sha256')
  const add = (path) => {
    const info = statSync(path)
    if (info.isDirectory()) for (const name of readdirSync(path).sort()) add(join(path, name))
    else hash.update(`${path} ${info.size} ${info.mtimeMs}\n`)
  }
  for (const source of sources) add(source)
  return hash.digest('hex').slice(0, 16)
}

/**
 * The path of an entry file as one bundle, made if its sources have changed; the entry itself where
 * nothing can be written.
 *
 * @param entry path from the project's root; the bundle lies beside its folder, in `.bundle`
 * @param more what it is made of besides what all are, paths from the project's root
 */
export async function bundled(entry, more = []) {
  const source = join(root, entry)
  const folder = join(dirname(source), '../.bundle')
  const name = basename(entry, '.ts')
  const file = `${name}-${stampOf([source, ...[...SOURCES, ...more].map((path) => join(root, path))])}.mjs`
  if (existsSync(join(folder, file))) return join(folder, file)
  const beside = join(folder, `${file}.${process.pid}.part`)
  try {
    const { bundleForNode } = await import('../../../scripts/bundle.mjs')
    // these bring files of their own: threads, and a solver that is no JavaScript
    await bundleForNode(source, beside, ['piscina', 'highs'])
    renameSync(beside, join(folder, file))
    for (const old of readdirSync(folder))
      if (old.startsWith(`${name}-`) && old.endsWith('.mjs') && old !== file) rmSync(join(folder, old), { force: true })
    return join(folder, file)
  } catch (error) {
    // a faulty source is told by running it; a place that cannot be written to is no reason not to start
    if (process.env.TINKER_DEBUG) process.stderr.write(`${String(error)}\n`)
    const { register } = await import('tsx/esm/api')
    register()
    return source
  }
}
