import type { Problem } from '@idle-tinker/core'

/** What every command is given to speak with. */
export interface Voice {
  /** A result, as a sentence or as JSON. */
  say(sentence: string, json: unknown): void
  /** Problems to stderr; returns the exit code they ask for. */
  tell(problems: readonly Problem[]): number
}
