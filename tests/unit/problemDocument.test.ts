import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { createApp, createError, createRouter, defineEventHandler, toNodeListener } from 'h3'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import problemDocument from '../../server/error.ts'

const app = createApp({ onError: problemDocument })
const router = createRouter()
router.get(
  '/:code',
  defineEventHandler((event) => {
    throw Object.assign(new Error('somewhere'), { code: event.context.params!.code })
  }),
)
router.get(
  '/refused/here',
  defineEventHandler(() => {
    throw createError({ statusCode: 422, statusMessage: 'Not taken', data: { detail: 'It has no name.' } })
  }),
)
app.use(router)
const server = createServer(toNodeListener(app))
let address: string
beforeAll(async () => {
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterAll(() => new Promise((resolve) => server.close(resolve)))

async function ask(path: string) {
  const answer = await fetch(`${address}/${path}`)
  const { title, status, detail } = (await answer.json()) as Record<string, unknown>
  return [answer.status, answer.headers.get('content-type'), title, status, detail]
}

describe('a fault', () => {
  it.each([
    ['ECONNREFUSED', 503, 'Database away'],
    ['PROTOCOL_CONNECTION_LOST', 503, 'Database away'],
    ['ER_RECORD_FILE_FULL', 507, 'Disk full'],
    ['ER_DISK_FULL', 507, 'Disk full'],
    ['ENOSPC', 507, 'Disk full'],
  ])('of the database is told as what it is, and that work is kept: %s', async (code, status, title) => {
    const detail = expect.stringContaining('Your work is kept') as unknown
    expect(await ask(code)).toEqual([status, 'application/problem+json', title, status, detail])
  })

  it('that nobody foresaw says no more than that, and one that was foreseen says what it was', async () => {
    const none = 'Something went wrong here. Nothing was changed.'
    expect((await ask('ER_PARSE_ERROR')).slice(0, 2)).toEqual([500, 'application/problem+json'])
    expect((await ask('ER_PARSE_ERROR'))[4]).toBe(none)
    expect(await ask('refused/here')).toEqual([422, 'application/problem+json', 'Not taken', 422, 'It has no name.'])
  })
})
