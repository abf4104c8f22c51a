export interface PrivateMariaDb {
  /** mysql:// address with the password in it. */
  address: string
  port: number
  whenEnded: Promise<void>
  stop(): Promise<void>
}
export function freePort(): Promise<number>
export function portIsFree(port: number): Promise<boolean>
export function isOurs(folder: string): boolean
export function startMariaDb(folder: string, options?: { port?: number | null }): Promise<PrivateMariaDb>
export function stopLeftover(pidFile: string, ...words: string[]): Promise<void>
