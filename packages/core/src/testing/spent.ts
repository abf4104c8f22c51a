/** Seconds of processor time something takes: what others do on the machine meanwhile does not count. */
export function spent(run: () => unknown): number {
  const before = process.cpuUsage()
  run()
  const { user, system } = process.cpuUsage(before)
  return (user + system) / 1e6
}
