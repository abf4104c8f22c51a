import { main } from '../main.ts'

/** What a command came to: its exit code, and what it wrote on both streams. */
export interface Told {
  code: number
  out: string
  err: string
}

/** Runs a command within this process. */
export async function tinker(...args: string[]): Promise<Told> {
  const [out, err]: [string[], string[]] = [[], []]
  const code = await main(args, { out: (line) => out.push(line), err: (line) => err.push(line) })
  return { code, out: out.join('\n'), err: err.join('\n') }
}
