import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { type Recipe } from '@idle-tinker/core'
import { select } from '../../server/db/pool.ts'
import { request } from 'node:http'
import { ask, askAs, maren, useWorkshop, workshop } from './api.ts'

useWorkshop()

describe('bad input', () => {
  it.each([
    ['broken JSON', '{"format":', 400],
    ['a wrong schema', { format: 'x' }, 422],
    ['an unknown member', { ...({} as Recipe), extra: true }, 422],
    ['nothing at all', '', 400],
  ])('as %s is answered with a problem document and changes nothing', async (_name, body, status) => {
    const before = (await ask('/api/documents/figure')).body
    const answer = await ask('/api/documents/figure', 'POST', body)
    expect(answer.status).toBe(status)
    expect(answer.type).toContain('application/problem+json')
    expect(answer.body).toMatchObject({ status, detail: expect.any(String), problems: expect.any(Array) })
    expect((await ask('/api/documents/figure')).body).toEqual(before)
  })

  it('names the place of a slider that is no number', async () => {
    const text = JSON.stringify(maren.content).replace('"sliders":{', '"sliders":{"stoop":"NaN",')
    const answer = await ask('/api/documents/figure', 'POST', text)
    expect(answer.status).toBe(422)
    expect((answer.body as { problems: { where: string }[] }).problems[0]!.where).toBe('body/sliders/stoop')
  })

  it('larger than allowed is refused', async () => {
    expect((await ask('/api/documents/figure', 'POST', `"${'x'.repeat(300 << 10)}"`)).status).toBe(413)
  })

  it('larger than allowed is refused even when its length is not said beforehand', async () => {
    const { port } = new URL(workshop.address)
    const status = await new Promise<number>((resolve, reject) => {
      const sent = request(
        {
          host: '127.0.0.1',
          port,
          path: '/api/documents/figure',
          method: 'POST',
          headers: { 'transfer-encoding': 'chunked' },
        },
        (answer) => {
          answer.resume()
          resolve(answer.statusCode ?? 0)
        },
      )
      sent.on('error', reject)
      for (let i = 0; i < 12; i++) sent.write('x'.repeat(32 << 10))
      sent.end()
    })
    expect(status).toBe(413)
    expect((await ask('/api/health')).status).toBe(200)
  })

  it('as a method that a route does not know is refused', async () => {
    expect((await ask('/api/documents/figure', 'DELETE')).status).toBeGreaterThanOrEqual(400)
    expect((await ask('/api/nowhere')).status).toBe(404)
  })

  it('never shows a stack or a statement in its answer', async () => {
    for (const [path, method, body] of [
      ['/api/documents/figure', 'POST', '{'],
      ['/api/documents/figure/1', 'GET', undefined],
      ['/api/documents/mix/quay-at-noon', 'PUT', { version: 1 }],
      ['/api/documents/nothing', 'GET', undefined],
      ['/api/shipments', 'POST', { name: 'x' }],
      ['/api/kits', 'POST', 'x'],
    ] as const) {
      const text = JSON.stringify((await ask(path, method, body)).body)
      expect(text).not.toMatch(/SELECT|INSERT|node_modules|\bat \w+ \(/)
    }
  })

  it('in an address is refused', async () => {
    for (const id of ['1', '../x', "' OR 1=1", randomUUID()])
      expect((await ask(`/api/documents/figure/${encodeURIComponent(id)}`)).status).toBeGreaterThanOrEqual(400)
    expect((await ask('/api/documents/figure')).status).toBe(200)
  })

  it('finds every answer guarded: pages, files and the interface', async () => {
    const page = await (await fetch(`${workshop.address}/bench`)).text()
    const script = /src="(\/_nuxt\/[^"]+\.js)"/.exec(page)?.[1]
    for (const path of ['/bench', script!, '/mark.svg', '/api/kits', '/api/nowhere']) {
      const { headers } = await fetch(`${workshop.address}${path}`)
      const found = (name: string) => headers.get(name) ?? `none for ${path}`
      expect(found('content-security-policy')).toContain("default-src 'self'")
      expect(found('content-security-policy')).not.toMatch(/script-src[^;]*('unsafe-inline'|'unsafe-eval'|\*|http)/)
      expect(found('cross-origin-resource-policy')).toBe('same-origin')
      expect(found('permissions-policy')).toContain('camera=()')
      expect(found('x-content-type-options')).toBe('nosniff')
    }
    for (const path of ['/bench', script!, '/mark.svg']) expect(await askAs('evil.example', {}, path)).toBe(403)
  })

  it('runs with an account that has no rights beyond its own database', async () => {
    const grants = await select<Record<string, string>>('SHOW GRANTS')
    const given = grants.flatMap((g) => Object.values(g)).filter((g) => !g.startsWith('GRANT USAGE'))
    expect(given).toHaveLength(1)
    expect(given[0]).toContain('ON `tinker`.*')
    await expect(select('SELECT User FROM mysql.user')).rejects.toThrow(/denied/)
  })

  it('from another host or page is refused', async () => {
    expect(await askAs('evil.example')).toBe(403)
    expect(await askAs(new URL(workshop.address).host, { origin: 'http://evil.example' })).toBe(403)
    expect(await askAs(new URL(workshop.address).host, { origin: workshop.address })).toBe(200)
  })
})
