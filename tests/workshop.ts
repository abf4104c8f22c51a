import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { freePort, startMariaDb } from '../scripts/mariadb.mjs'
import { startServer } from '../scripts/server.mjs'

export interface TestWorkshop {
  address: string
  database: string
  restart(): Promise<void>
  stop(): Promise<void>
}

/** A whole workshop for one test file: its own MariaDB in a temporary folder, its own port, freshly seeded. */
export async function startWorkshop(): Promise<TestWorkshop> {
  const folder = mkdtempSync(join(tmpdir(), 'tinker-'))
  const mariadb = await startMariaDb(folder)
  const port = await freePort()
  let server = await startServer({ database: mariadb.address, port, quiet: true })
  return {
    address: server.address,
    database: mariadb.address,
    async restart() {
      await server.stop()
      server = await startServer({ database: mariadb.address, port, quiet: true })
    },
    async stop() {
      await server.stop()
      await mariadb.stop()
      rmSync(folder, { recursive: true, force: true })
    },
  }
}
