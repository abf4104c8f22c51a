export interface RunningServer {
  address: string
  pid: number
  stop(): Promise<void>
  whenEnded: Promise<unknown>
}
export function startServer(options: {
  database: string
  port: number
  pidFile?: string | null
  quiet?: boolean
}): Promise<RunningServer>
