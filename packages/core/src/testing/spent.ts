/** Seconds of processor time this process has taken so far: what others do on the machine meanwhile does not count. */
export function processorSeconds(): number {
  const { user, system } = process.cpuUsage()
  return (user + system) / 1e6
}

/** Seconds of processor time something takes. */
export function spent(run: () => unknown): number {
  const before = processorSeconds()
  run()
  return processorSeconds() - before
}
