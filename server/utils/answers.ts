import { createError, getRequestHeader, readRawBody, type H3Event } from 'h3'
import type { Static, TSchema } from '@sinclair/typebox'
import { parseJson, validate, type Problem } from '@idle-tinker/core'

/** Stops a request with an RFC 9457 problem document. */
export function refuse(status: number, title: string, detail: string, problems: readonly Problem[] = []) {
  return createError({ statusCode: status, statusMessage: title, message: detail, data: { detail, problems } })
}

export const RECIPE_LIMIT = 256 << 10
export const KIT_LIMIT = 64 << 20

/** The raw body, refused when it is larger than allowed. */
export async function bodyBytes(event: H3Event, limit: number): Promise<Buffer> {
  const said = Number(getRequestHeader(event, 'content-length') ?? 0)
  const tooLarge = () => refuse(413, 'Too large', `The body may have ${limit} bytes.`)
  if (said > limit) throw tooLarge()
  const body = (await readRawBody(event, false)) ?? Buffer.alloc(0)
  if (body.length > limit) throw tooLarge()
  return body
}

/** The body as JSON that fits a schema; anything else is refused with the places that are wrong. */
export async function jsonBody<S extends TSchema>(event: H3Event, schema: S, limit = RECIPE_LIMIT): Promise<Static<S>> {
  const parsed = parseJson((await bodyBytes(event, limit)).toString('utf8'), 'body')
  if (parsed.problems.length) throw refuse(400, 'Not JSON', parsed.problems[0]!.message, parsed.problems)
  const checked = validate(schema, parsed.value, 'body')
  if (!checked.value) throw refuse(422, 'Not valid', 'The body does not have the expected form.', checked.problems)
  return checked.value
}

/** A route parameter that fits a pattern. */
export function routeId(event: H3Event, name: string, pattern: RegExp): string {
  const value = event.context.params?.[name] ?? ''
  if (!pattern.test(value)) throw refuse(400, 'Not valid', `“${name}” has not the expected form.`)
  return value
}

export const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/
export const KIT_ID = /^[a-z0-9][a-zA-Z0-9-]{0,63}$/
