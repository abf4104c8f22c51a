import { setResponseHeader, setResponseStatus, type H3Error, type H3Event } from 'h3'

/** Every error leaves as an RFC 9457 problem document; what we did not foresee says no more than that. */
export default function problemDocument(error: H3Error, event: H3Event): void {
  const status = error.statusCode || 500
  const data = (error.data ?? {}) as { detail?: string; problems?: unknown[] }
  const away = /ECONNREFUSED|PROTOCOL_CONNECTION_LOST|ETIMEDOUT|ECONNRESET/.test(
    String((error.cause as { code?: string } | undefined)?.code ?? error.message),
  )
  if (status >= 500 && !away) console.error(error.cause ?? error)
  if (event.node.res.headersSent) {
    // half of an answer is on its way: cut off, it is not taken for a whole one
    event.node.res.destroy()
    return
  }
  setResponseStatus(event, away ? 503 : status)
  setResponseHeader(event, 'content-type', 'application/problem+json')
  const document = away
    ? {
        type: 'about:blank',
        title: 'Database away',
        status: 503,
        detail: 'The database does not answer. Your work is kept and saved as soon as it is back.',
      }
    : {
        type: 'about:blank',
        title: error.statusMessage || 'Error',
        status,
        detail: data.detail ?? (status >= 500 ? 'Something went wrong here. Nothing was changed.' : error.message),
        problems: data.problems ?? [],
      }
  event.node.res.end(JSON.stringify(document))
}
