// Checks of documents, compiled with the program: what a build puts in the place of packages/core/src/base/preparedChecks.ts.
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { basename, dirname, join } from 'node:path'
import { fileURLToPath, pathToFileURL } from 'node:url'

const root = dirname(dirname(fileURLToPath(import.meta.url)))
const FOLDER = join(root, '.data/build')
const MADE = /^checks-[0-9a-f]{16}\.mjs$/
const INSTEAD_OF = /[\\/]preparedChecks(\.ts)?$/
let made = null

/** Bundles an entry for Node.js, its packages left where they are. Returns the text. */
async function bundle(options) {
  const { build } = await import('esbuild')
  const { outputFiles } = await build({
    ...options,
    ...{ bundle: true, write: false, format: 'esm', target: 'es2022', logLevel: 'silent' },
  })
  return outputFiles[0].text
}

/**
 * Makes the module of checks, if the schemas have changed since it was made.
 *
 * @returns its path: a module without imports, for pages and for Node.js
 */
export function checksModule() {
  return (made ??= make())
}

async function make() {
  const entry = join(root, 'packages/core/src/prepareChecks.ts')
  const maker = await bundle({ entryPoints: [entry], platform: 'node', packages: 'external' })
  const lock = readFileSync(join(root, 'package-lock.json'))
  const stamp = createHash('sha256').update(maker).update(lock).digest('hex').slice(0, 16)
  const file = join(FOLDER, `checks-${stamp}.mjs`)
  if (existsSync(file)) return file
  mkdirSync(FOLDER, { recursive: true })
  // where its packages are found; two that make it at once make the same
  const own = join(FOLDER, `checks-${stamp}.${process.pid}`)
  try {
    writeFileSync(`${own}.maker.mjs`, maker)
    const { prepareChecks } = await import(pathToFileURL(`${own}.maker.mjs`).href)
    const files = prepareChecks()
    const inMemory = {
      name: 'checks',
      setup({ onResolve, onLoad }) {
        onResolve({ filter: /^\.\// }, ({ path }) => ({ path: path.slice(2), namespace: 'checks' }))
        onLoad({ filter: /./, namespace: 'checks' }, ({ path }) => ({ contents: files.get(path), resolveDir: root }))
      },
    }
    const stdin = { contents: files.get('index.js'), resolveDir: root }
    writeFileSync(`${own}.part`, await bundle({ stdin, plugins: [inMemory], minify: true, platform: 'neutral' }))
    renameSync(`${own}.part`, file)
    for (const old of readdirSync(FOLDER))
      if (MADE.test(old) && old !== basename(file)) rmSync(join(FOLDER, old), { force: true })
  } finally {
    rmSync(`${own}.maker.mjs`, { force: true })
  }
  return file
}

/** For Rollup and Vite. */
export const preparedChecks = () => ({
  name: 'prepared-checks',
  enforce: 'pre',
  resolveId: (source) => (INSTEAD_OF.test(source) ? checksModule() : null),
})

/** For esbuild. */
export const preparedChecksForEsbuild = {
  name: 'prepared-checks',
  setup({ onResolve }) {
    onResolve({ filter: INSTEAD_OF }, async () => ({ path: await checksModule() }))
  },
}
