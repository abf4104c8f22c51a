import { createHash } from 'node:crypto'
import { getRequestHeader, setResponseHeaders, type H3Event } from 'h3'
import { refuse } from '../utils/answers'

const LOCAL = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/

/**
 * What a page of ours may load and do: nothing from elsewhere. Scripts in the page itself are named by their
 * content; no text becomes code there (what checks documents was compiled with the program); the reducer is
 * WebAssembly; styles are set by the interface's own library; fonts lie in its styles, and pictures are drawn here.
 */
function policy(scripts: readonly string[] = []): string {
  const inline = scripts.map((text) => ` 'sha256-${createHash('sha256').update(text).digest('base64')}'`).join('')
  return [
    "default-src 'self'",
    `script-src 'self' 'wasm-unsafe-eval'${inline}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self' data:",
    "connect-src 'self'",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'none'",
    "frame-ancestors 'none'",
  ].join('; ')
}

/** Only this machine may ask, and only pages that came from here: foreign Host or Origin is refused, whatever is asked for. */
function admit(event: H3Event): void {
  setResponseHeaders(event, {
    'x-content-type-options': 'nosniff',
    'referrer-policy': 'no-referrer',
    'cross-origin-opener-policy': 'same-origin',
    'cross-origin-resource-policy': 'same-origin',
    'permissions-policy': 'camera=(), microphone=(), geolocation=(), usb=(), serial=(), payment=()',
    'x-frame-options': 'DENY',
    'content-security-policy': policy(),
  })
  const host = getRequestHeader(event, 'host') ?? ''
  if (!LOCAL.test(host)) throw refuse(403, 'Foreign host', 'The workshop answers on this machine only.')
  const origin = getRequestHeader(event, 'origin')
  if (origin !== undefined && origin !== `http://${host}`)
    throw refuse(403, 'Foreign origin', 'Requests from other pages are refused.')
}

export default defineNitroPlugin((nitro) => {
  // before routes and files alike: what a hook throws would only be noted
  const { handler } = nitro.h3App
  nitro.h3App.handler = Object.assign((event: H3Event) => {
    admit(event)
    return handler(event) as unknown
  }, handler)
  nitro.hooks.hook('render:response', (response) => {
    if (typeof response.body !== 'string') return
    const scripts = [...response.body.matchAll(/<script(?![^>]*\ssrc=)[^>]*>([\s\S]*?)<\/script>/g)].map((m) => m[1]!)
    response.headers = { ...response.headers, 'content-security-policy': policy(scripts) }
  })
})
