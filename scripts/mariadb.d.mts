export interface PrivateMariaDb {
  /** mysql:// address with the password in it. */
  address: string
  stop(): Promise<void>
}
export function freePort(): Promise<number>
export function portIsFree(port: number): Promise<boolean>
export function isOurs(folder: string): boolean
export function startMariaDb(folder: string): Promise<PrivateMariaDb>
export function stopLeftover(pidFile: string, ...words: string[]): Promise<void>
