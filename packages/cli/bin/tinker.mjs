#!/usr/bin/env node
import { pathToFileURL } from 'node:url'
import { bundled } from './bundled.mjs'

const { main } = await import(pathToFileURL(await bundled('packages/cli/src/main.ts')).href)
process.exitCode = await main(process.argv.slice(2), {
  out: (line) => process.stdout.write(`${line}\n`),
  err: (line) => process.stderr.write(`${line}\n`),
})
