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

/** All or nothing. */
export async function transaction<T>(work: (on: PoolConnection) => Promise<T>): Promise<T> {
  const connection = await database().getConnection()
  try {
    await connection.beginTransaction()
    const result = await work(connection)
    await connection.commit()
    return result
  } catch (error) {
    await connection.rollback()
    throw error
  } finally {
    connection.release()
  }
}
