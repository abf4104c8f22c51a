import { beforeEach, describe, expect, it, vi } from 'vitest'
import { plain } from '../workers/plain.ts'
import { ask, Refused } from './api.ts'

const fetched = vi.fn()
beforeEach(() => {
  fetched.mockReset()
  vi.stubGlobal('fetch', fetched)
})
const answer = (status: number, body: unknown, json = true) => ({
  ok: status < 400,
  status,
  json: () => (json ? Promise.resolve(body) : Promise.reject(new SyntaxError('no JSON'))),
})

describe('asking the server', () => {
  it('sends documents as JSON and gives back what it answers', async () => {
    fetched.mockResolvedValueOnce(answer(200, { id: 1 }))
    expect(await ask('/api/figures', 'POST', { name: 'Pim' })).toEqual({ id: 1 })
    expect(fetched).toHaveBeenCalledWith('/api/figures', {
      method: 'POST',
      body: '{"name":"Pim"}',
      headers: { 'content-type': 'application/json' },
    })
  })

  it('sends bytes as they are, and no body when there is none', async () => {
    fetched.mockResolvedValue(answer(200, {}))
    const bytes = new Uint8Array([1, 2])
    await ask('/api/kits', 'POST', bytes)
    expect(fetched.mock.calls[0]![1]).toMatchObject({
      body: bytes,
      headers: { 'content-type': 'application/octet-stream' },
    })
    await ask('/api/kits')
    expect(fetched.mock.calls[1]![1]).toEqual({ method: 'GET' })
  })

  it('turns a problem document into a refusal with its problems', async () => {
    const problems = [{ code: 'schema', severity: 'error', where: 'body', message: 'm', remedy: 'r' }]
    fetched.mockResolvedValueOnce(answer(422, { detail: 'Not like this.', problems }))
    const refusal = (await ask('/x').catch((e: unknown) => e)) as Refused
    expect(refusal).toBeInstanceOf(Refused)
    expect(refusal).toMatchObject({ status: 422, message: 'Not like this.', problems })
  })

  it('makes a sentence of an answer that is no document', async () => {
    fetched.mockResolvedValueOnce(answer(502, null, false))
    await expect(ask('/x')).rejects.toMatchObject({ status: 502, message: 'The server answered 502.', problems: [] })
  })

  it('takes an answer without a body for done', async () => {
    fetched.mockResolvedValueOnce(new Response(null, { status: 204 }))
    await expect(ask('/x', 'DELETE')).resolves.toBeUndefined()
  })

  it('tells of silence in words', async () => {
    fetched.mockRejectedValueOnce(new TypeError('fetch failed'))
    const silence: unknown = await ask('/x').catch((error: unknown) => error)
    expect(silence).toBeInstanceOf(TypeError)
    expect((silence as TypeError).message).toContain('does not answer')
  })
})

describe('a plain copy', () => {
  it('is equal and shares nothing', () => {
    const document = { a: [1, { b: 'c' }], d: null }
    const copy = plain(document)
    expect(copy).toEqual(document)
    expect(copy.a[1]).not.toBe(document.a[1])
  })
})
