export class Stop extends Error {}
export function say(line: string): void
export function runScript(main: () => unknown): Promise<void>
