import mysql, { type Pool, type PoolConnection, type ResultSetHeader, type RowDataPacket } from 'mysql2/promise'

let pool: Pool | null = null

/** The connection pool, from the environment: TINKER_DB is a mysql:// address. */
export function database(): Pool {
  const uri = process.env.TINKER_DB
  if (!uri) throw new Error('TINKER_DB is not set: start the workshop with “npm run demo”')
  pool ??= mysql.createPool({
    uri,
    connectionLimit: 6,
    charset: 'utf8mb4',
    supportBigNumbers: true,
    // documents go through as text, whatever their column is
    jsonStrings: true,
    enableKeepAlive: true,
  })
  return pool
}

export async function closeDatabase(): Promise<void> {
  await pool?.end()
  pool = null
}

type Value = string | number | Buffer | Date | null

/** Rows of a query. `execute` sends blobs as they are. */
export async function select<T>(
  sql: string,
  values: Value[] = [],
  on: Pool | PoolConnection = database(),
): Promise<T[]> {
  const [rows] = await on.execute<RowDataPacket[]>(sql, values)
  return rows as T[]
}

/** How many rows a statement changed. */
export async function change(
  sql: string,
  values: Value[] = [],
  on: Pool | PoolConnection = database(),
): Promise<number> {
  const [result] = await on.execute<ResultSetHeader>(sql, values)
  return result.affectedRows
}

/** A deadlock, or a lock waited for too long: the database has undone one of two, and asks for it again. */
const TRY_AGAIN = new Set(['ER_LOCK_DEADLOCK', 'ER_LOCK_WAIT_TIMEOUT', 'ER_CHECKREAD'])
const MOST_TRIES = 6

/** All or nothing. Done again when the database has undone it in favour of another. */
export async function transaction<T>(work: (on: PoolConnection) => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++)
    try {
      return await once(work)
    } catch (error) {
      const { code } = error as { code?: string }
      if (tries === MOST_TRIES || !code || !TRY_AGAIN.has(code)) throw error
      // not both at the same moment again
      await new Promise((resolve) => setTimeout(resolve, Math.random() * 20 * tries))
    }
}

async function once<T>(work: (on: PoolConnection) => Promise<T>): Promise<T> {
  const connection = await database().getConnection()
  try {
    await connection.beginTransaction()
    const result = await work(connection)
    await connection.commit()
    connection.release()
    return result
  } catch (error) {
    // where even this fails the connection is of no use any more, and the first fault is the one to tell
    await connection.rollback().then(
      () => connection.release(),
      () => connection.destroy(),
    )
    throw error
  }
}
