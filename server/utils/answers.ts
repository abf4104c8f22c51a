import { Readable } from 'node:stream'
import { createError, getRequestHeader, sendStream, setResponseHeader, type H3Event } from 'h3'
import type { Static, TSchema } from '@sinclair/typebox'
import { parseJson, validate, type Problem, type Read } from '@idle-tinker/core'
import { blobLength, readBlob } from '../db/blobs'
import { isKind, type Kind } from './kinds'

/** Stops a request with an RFC 9457 problem document. */
export function refuse(status: number, title: string, detail: string, problems: readonly Problem[] = []) {
  return createError({ statusCode: status, statusMessage: title, message: detail, data: { detail, problems } })
}

const BODY_LIMIT = 256 << 10
export const KIT_LIMIT = 64 << 20

/** The raw body, refused as soon as it is larger than allowed, whatever its headers say. */
export function bodyBytes(event: H3Event, limit: number): Promise<Buffer> {
  const tooLarge = () => refuse(413, 'Too large', `The body may have ${limit} bytes.`)
  if (Number(getRequestHeader(event, 'content-length') ?? 0) > limit) return Promise.reject(tooLarge())
  const { req } = event.node
  return new Promise((resolve, reject) => {
    const chunks: Buffer[] = []
    let size = 0
    // what comes after the limit is let through unkept, so that the answer can still be read
    req.on('data', (chunk: Buffer) => {
      size += chunk.length
      if (size <= limit) chunks.push(chunk)
      else if (chunks.length) {
        chunks.length = 0
        reject(tooLarge())
      }
    })
    req.on('end', () => (size <= limit ? resolve(Buffer.concat(chunks)) : reject(tooLarge())))
    req.on('error', reject)
  })
}

/** The body as JSON that fits a schema; anything else is refused with the places that are wrong. */
export async function jsonBody<S extends TSchema>(event: H3Event, schema: S, limit = BODY_LIMIT): Promise<Static<S>> {
  const parsed = parseJson((await bodyBytes(event, limit)).toString('utf8'), 'body')
  if (parsed.problems.length) throw refuse(400, 'Not JSON', parsed.problems[0]!.message, parsed.problems)
  const checked = validate(schema, parsed.value, 'body')
  if (!checked.value) throw refuse(422, 'Not valid', 'The body does not have the expected form.', checked.problems)
  return checked.value
}

/** What a reader made of a document in the body; one that it could not read is refused with its faults. */
export function accepted<T>({ value, problems }: Read<T>): T {
  if (value === null) throw refuse(422, 'Not valid', 'The document does not have the expected form.', problems)
  return value
}

/** A route parameter that fits a pattern. */
export function routeId(event: H3Event, name: string, pattern: RegExp): string {
  const value = event.context.params?.[name] ?? ''
  if (!pattern.test(value)) throw refuse(400, 'Not valid', `“${name}” has not the expected form.`)
  return value
}

/** The kind of document that a route names. */
export function routeKind(event: H3Event): Kind {
  const name = event.context.params?.kind ?? ''
  if (!isKind(name)) throw refuse(404, 'Not found', 'There is no such kind of document.')
  return name
}

/** Of a figure a UUID, of the others what their makers call them. */
export const DOCUMENT_ID = /^[a-z0-9][a-zA-Z0-9-]{0,63}$/
export const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/
export const KIT_ID = /^[a-z0-9][a-zA-Z0-9-]{0,63}$/

/** Sends kept bytes as they come from the database; null if they are not here. */
export async function sendBlob(event: H3Event, hash: string): Promise<unknown> {
  const length = await blobLength(hash)
  if (length === null) throw refuse(404, 'Not found', 'The file is not here any more.')
  setResponseHeader(event, 'content-length', length)
  return sendStream(event, Readable.from(readBlob(hash, length)))
}
