import { Readable } from 'node:stream'
import { createError, getRequestHeader, sendStream, setResponseHeader, type H3Event } from 'h3'
import type { Problem } from '@idle-tinker/core'
import { blobLength, readBlob } from '../db/blobs'
import type { DocumentRow } from '../db/documents'
import { theReaders } from '../jobs/readers'
import type { BodyName, BodyOf } from './bodies'
import { isKind, type Kind } from './kinds'

/** Stops a request with an RFC 9457 problem document. */
export function refuse(status: number, title: string, detail: string, problems: readonly Problem[] = []) {
  return createError({ statusCode: status, statusMessage: title, message: detail, data: { detail, problems } })
}

export const KIT_LIMIT = 64 << 20
export const ORDER_LIMIT = 16 << 20

/** The raw body, refused as soon as it is larger than allowed, whatever its headers say. */
export function bodyBytes(event: H3Event, limit: number): Promise<Uint8Array> {
  const tooLarge = () => refuse(413, 'Too large', `The body may have ${limit} bytes.`)
  const told = Number(getRequestHeader(event, 'content-length') ?? 0)
  if (told > limit) return Promise.reject(tooLarge())
  const { req } = event.node
  return new Promise((resolve, reject) => {
    // filled as it comes: one that is put together at the end keeps everyone waiting for that long
    let body = new Uint8Array(told || FIRST_ROOM)
    let size = 0
    // what comes after the limit is let through unkept, so that the answer can still be read
    req.on('data', (chunk: Buffer) => {
      const at = size
      size += chunk.length
      if (size > limit) {
        body = new Uint8Array()
        reject(tooLarge())
        return
      }
      if (size > body.length) {
        const larger = new Uint8Array(Math.min(limit, Math.max(size, 2 * body.length)))
        larger.set(body)
        body = larger
      }
      body.set(chunk, at)
    })
    req.on('end', () => (size <= limit ? resolve(size === body.length ? body : body.slice(0, size)) : undefined))
    req.on('error', reject)
  })
}

/** Bytes, where the sender has not told how many come. */
const FIRST_ROOM = 64 << 10

/** The body as what a reader makes of it; anything else is refused with the places that are wrong. */
export async function readBody<N extends BodyName>(
  event: H3Event,
  what: N,
  { kind = 'figure', limit }: { kind?: Kind; limit: number },
): Promise<BodyOf<N>> {
  const { value, refusal } = await theReaders().readBody(what, kind, await bodyBytes(event, limit))
  if (!value) throw refuse(refusal!.status, refusal!.title, refusal!.detail, refusal!.problems)
  return value
}

/** Sends rows that hold their documents as text. */
export function sendDocuments(event: H3Event, rows: DocumentRow | readonly DocumentRow[]): string {
  setResponseHeader(event, 'content-type', 'application/json')
  return 'id' in rows ? documentJson(rows) : `[${rows.map(documentJson).join(',')}]`
}

function documentJson({ content, ...row }: DocumentRow): string {
  return `${JSON.stringify(row).slice(0, -1)},"content":${content}}`
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
