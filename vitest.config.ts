import { readdirSync, readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const alias = {
  '@idle-tinker/core': fileURLToPath(new URL('packages/core/src/index.ts', import.meta.url)),
  '@idle-tinker/kept': fileURLToPath(new URL('packages/kept/src/index.ts', import.meta.url)),
  '@idle-tinker/runtime': fileURLToPath(new URL('packages/runtime/src/index.ts', import.meta.url)),
  '@idle-tinker/tryout': fileURLToPath(new URL('packages/tryout/src/index.ts', import.meta.url)),
  '~~': fileURLToPath(new URL('.', import.meta.url)),
}

/** Tests of the app that put something in a module's place: no other test may find that there. */
const standIns = readdirSync(new URL('app', import.meta.url), { recursive: true, encoding: 'utf8' })
  .filter((path) => path.endsWith('.test.ts'))
  .map((path) => `app/${path.replaceAll('\\', '/')}`)
  .filter((path) => /\bvi\.(do)?mock\(/.test(readFileSync(new URL(path, import.meta.url), 'utf8')))

export default defineConfig({
  resolve: { alias },
  test: {
    projects: [
      {
        resolve: { alias },
        // said here, so that nothing of the app's build is needed: these run while it is under way
        esbuild: { tsconfigRaw: JSON.stringify({ compilerOptions: { target: 'es2023', verbatimModuleSyntax: true } }) },
        test: {
          name: 'unit',
          include: ['packages/*/src/**/*.test.ts', 'tests/unit/**/*.test.ts'],
          // they run in what the journeys leave of the machine
          testTimeout: 240_000,
          hookTimeout: 240_000,
          // one fewer than there are cores would be one alone on a small machine
          maxWorkers: 2,
          // pure code without mocks: loading it anew for each file took a third of the time
          isolate: false,
        },
      },
      {
        resolve: { alias },
        test: {
          name: 'app',
          include: ['app/**/*.test.ts'],
          exclude: standIns,
          testTimeout: 240_000,
          hookTimeout: 240_000,
          maxWorkers: 2,
          isolate: false,
        },
      },
      {
        resolve: { alias },
        test: {
          name: 'app alone',
          include: standIns,
          testTimeout: 240_000,
          hookTimeout: 240_000,
          maxWorkers: 2,
        },
      },
      {
        resolve: { alias },
        test: {
          name: 'server',
          include: ['tests/server/**/*.test.ts'],
          testTimeout: 60_000,
          hookTimeout: 180_000,
          maxWorkers: 2,
        },
      },
      {
        resolve: { alias },
        test: {
          name: 'e2e',
          include: ['tests/e2e/**/*.test.ts'],
          globalSetup: ['tests/e2e/setup.ts'],
          testTimeout: 300_000,
          hookTimeout: 240_000,
          fileParallelism: false,
        },
      },
    ],
  },
})
