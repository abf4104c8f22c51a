import { problem, type Read } from './problem.ts'

/** What is wrong with a file of somebody else's, thrown where it is found. */
export class FileFault extends Error {
  readonly code: string
  readonly fix: string
  constructor(code: string, message: string, fix = 'Export it again.') {
    super(message)
    this.code = code
    this.fix = fix
  }
}

/** What reading a file comes to; a fault in it is told. */
export function readOrTell<T>(where: string, read: () => Read<T>): Read<T> {
  try {
    return read()
  } catch (error) {
    if (!(error instanceof FileFault)) throw error
    return { value: null, problems: [problem(error.code, where, error.message, error.fix)] }
  }
}
