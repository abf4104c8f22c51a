import { build } from 'esbuild'
import { preparedChecksForEsbuild } from './checks.mjs'

/** One file for Node.js of an entry and all it imports, but what is named. */
export function bundleForNode(entry, outfile, external = []) {
  return build({
    entryPoints: [entry],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    // what is wrong with it is thrown
    logLevel: 'silent',
    external,
    plugins: [preparedChecksForEsbuild],
    // packages of the older kind ask for others in the older way
    banner: {
      js: "import { createRequire as makeRequire } from 'node:module'; const require = makeRequire(import.meta.url);",
    },
  })
}
