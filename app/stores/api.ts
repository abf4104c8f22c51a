import type { Problem } from '@idle-tinker/core'

/** A refusal of the server as a problem document tells it. */
export class Refused extends Error {
  readonly status: number
  readonly problems: Problem[]
  constructor(status: number, detail: string, problems: Problem[]) {
    super(detail)
    this.status = status
    this.problems = problems
  }
}

/** Asks the server; a refusal becomes a Refused, silence a TypeError, in words. */
export async function ask<T>(
  path: string,
  method = 'GET',
  body?: unknown,
  headers?: Record<string, string>,
): Promise<T> {
  const binary = body instanceof Blob || body instanceof Uint8Array
  const init: RequestInit = { method, ...(headers && { headers }) }
  if (body !== undefined) {
    init.body = binary ? (body as BodyInit) : JSON.stringify(body)
    init.headers = { ...headers, 'content-type': binary ? 'application/octet-stream' : 'application/json' }
  }
  const answer = await fetch(path, init).catch((cause: unknown) => {
    // what else could be wrong is wrong in the code
    if (!(cause instanceof TypeError)) throw cause
    throw new TypeError('The server does not answer. Try it again in a moment.', { cause })
  })
  if (answer.status === 204) return undefined as T
  if (answer.ok) return (await answer.json()) as T
  const problem = (await answer.json().catch(() => ({}))) as { detail?: string; problems?: Problem[] }
  throw new Refused(answer.status, problem.detail ?? `The server answered ${answer.status}.`, problem.problems ?? [])
}
