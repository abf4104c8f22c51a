/** What is wrong with something a person gave us. Problems are data; exceptions are for bugs. */
export interface Problem {
  /** Stable, kebab-case. */
  code: string
  severity: 'error' | 'warning' | 'info'
  /** The place in the input: a JSON pointer, a file name, a slot. */
  where: string
  message: string
  /** The way out, as an instruction. */
  remedy: string
}

/** A value that may be missing because of the problems beside it. */
export interface Read<T> {
  value: T | null
  problems: Problem[]
}

export function problem(
  code: string,
  where: string,
  message: string,
  remedy: string,
  severity: Problem['severity'] = 'error',
): Problem {
  return { code, severity, where, message, remedy }
}

export function hasErrors(problems: readonly Problem[]): boolean {
  return problems.some((p) => p.severity === 'error')
}

/** One line of text: "slots/coat: There is no part “x”. Choose another part." */
export function describeProblem(p: Problem): string {
  return `${p.where}: ${p.message} ${p.remedy}`.trim()
}
