import { defineEventHandler, getRequestHeader, setResponseHeaders } from 'h3'
import { refuse } from '../utils/answers'

const LOCAL = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/

/** Only this machine may ask, and only pages that came from here: foreign Host or Origin is refused. */
export default defineEventHandler((event) => {
  const host = getRequestHeader(event, 'host') ?? ''
  if (!LOCAL.test(host)) throw refuse(403, 'Foreign host', 'The workshop answers on this machine only.')
  const origin = getRequestHeader(event, 'origin')
  if (origin !== undefined && origin !== `http://${host}`)
    throw refuse(403, 'Foreign origin', 'Requests from other pages are refused.')
  setResponseHeaders(event, {
    'x-content-type-options': 'nosniff',
    'referrer-policy': 'no-referrer',
    'cross-origin-opener-policy': 'same-origin',
    'x-frame-options': 'DENY',
  })
})
