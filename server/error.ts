import { setResponseHeader, setResponseStatus, type H3Error, type H3Event } from 'h3'

/** What ails a database, by what it says of it; none of it is anybody's fault who asked. */
const FAULTS = [
  {
    codes: /ECONNREFUSED|PROTOCOL_CONNECTION_LOST|ETIMEDOUT|ECONNRESET/,
    ...{ status: 503, title: 'Database away' },
    detail: 'The database does not answer. Your work is kept and saved as soon as it is back.',
  },
  {
    codes: /ENOSPC|ER_DISK_FULL|ER_RECORD_FILE_FULL|ER_ERROR_ON_WRITE/,
    ...{ status: 507, title: 'Disk full' },
    detail: 'The disk of the workshop is full. Your work is kept and saved as soon as there is space.',
  },
]

/** Every error leaves as an RFC 9457 problem document; what we did not foresee says no more than that. */
export default function problemDocument(error: H3Error, event: H3Event): void {
  const status = error.statusCode || 500
  const data = (error.data ?? {}) as { detail?: string; problems?: unknown[] }
  const code = String((error.cause as { code?: string } | undefined)?.code ?? error.message)
  const fault = FAULTS.find(({ codes }) => codes.test(code))
  if (status >= 500 && !fault) console.error(error.cause ?? error)
  if (event.node.res.headersSent) {
    // half of an answer is on its way: cut off, it is not taken for a whole one
    event.node.res.destroy()
    return
  }
  setResponseStatus(event, fault?.status ?? status)
  setResponseHeader(event, 'content-type', 'application/problem+json')
  const document = fault
    ? { type: 'about:blank', title: fault.title, status: fault.status, detail: fault.detail }
    : {
        type: 'about:blank',
        title: error.statusMessage || 'Error',
        status,
        detail: data.detail ?? (status >= 500 ? 'Something went wrong here. Nothing was changed.' : error.message),
        problems: data.problems ?? [],
      }
  event.node.res.end(JSON.stringify(document))
}
