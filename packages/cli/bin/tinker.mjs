#!/usr/bin/env node
import { pathToFileURL } from 'node:url'
import { bundled } from './bundled.mjs'

// who reads what is written may have seen enough, as `head` has: that is no fault
for (const stream of [process.stdout, process.stderr])
  stream.on('error', (error) => {
    if (error.code !== 'EPIPE') throw error
    process.exit(process.exitCode)
  })

const { main } = await import(pathToFileURL(await bundled('packages/cli/src/main.ts')).href)
process.exitCode = await main(process.argv.slice(2), {
  out: (line) => process.stdout.write(`${line}\n`),
  err: (line) => process.stderr.write(`${line}\n`),
})
