import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { change, database, select } from './pool.ts'

/** Applies the migrations that have not been applied yet, in the order of their numbers. */
export async function migrate(folder: string): Promise<string[]> {
  await change(
    'CREATE TABLE IF NOT EXISTS migrations (name VARCHAR(120) NOT NULL PRIMARY KEY, applied_at TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP)',
  )
  const applied = new Set((await select<{ name: string }>('SELECT name FROM migrations')).map((r) => r.name))
  const names = (await readdir(folder)).filter((n) => n.endsWith('.sql') && !applied.has(n)).sort()
  for (const name of names) {
    const statements = (await readFile(join(folder, name), 'utf8')).split(/;\s*(?:\n|$)/).filter((s) => s.trim())
    // data definition commits by itself in MariaDB, so a failed file can leave tables behind: every
    // statement of a migration has to bear being run again
    for (const statement of statements) await database().query(statement)
    await change('INSERT INTO migrations (name) VALUES (?)', [name])
  }
  return names
}
