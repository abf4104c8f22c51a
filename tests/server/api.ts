import { randomUUID } from 'node:crypto'
import { request } from 'node:http'
import { afterAll, beforeAll } from 'vitest'
import type { Recipe } from '@idle-tinker/core'
import { demoTarget } from '../../packages/core/src/testing/demoKits.ts'
import { closeDatabase } from '../../server/db/pool.ts'
import type { ParcelOrder, ShipmentOrder } from '../../server/jobs/shipmentOrder.ts'
import { startWorkshop, type TestWorkshop } from '../workshop.ts'

export interface Row<T> {
  id: string
  name: string
  version: number
  content: T
}
export type Figure = Row<Recipe>

export let workshop: TestWorkshop
export let maren: Figure

export async function ask(
  path: string,
  method = 'GET',
  body?: unknown,
  headers: Record<string, string> = {},
): Promise<{ status: number; type: string; body: unknown }> {
  const init: RequestInit = { method, headers: { 'content-type': 'application/json', ...headers } }
  if (body !== undefined)
    init.body = typeof body === 'string' || body instanceof Uint8Array ? (body as BodyInit) : JSON.stringify(body)
  const answer = await fetch(`${workshop.address}${path}`, init)
  const text = await answer.text()
  let parsed: unknown = text
  try {
    parsed = JSON.parse(text)
  } catch {
    // not every answer is JSON
  }
  return { status: answer.status, type: answer.headers.get('content-type') ?? '', body: parsed }
}

/** What a save sends; `after` names attempts whose answers were lost. */
export function save(version: number, content: unknown, after: string[] = []) {
  return { version, content, token: randomUUID(), after }
}

/** What is sent to have something shipped as GLB for the middle one of the demo's targets, unless it says more. */
export function shipmentOf(parcels: ParcelOrder[], more: Partial<ShipmentOrder> = {}): ShipmentOrder {
  return {
    ...{ name: 'For the quay', parcels, targets: [demoTarget('crowd')], formats: ['glb'] },
    ...{ lods: false, insist: false, pattern: '', folders: '' },
    ...more,
  }
}

/** … of figures as a crowd. */
export function crowdOf(recipes: unknown[], more: Partial<ShipmentOrder> = {}): ShipmentOrder {
  return shipmentOf([{ kind: 'crowd', name: 'Pair', mix: null, recipes }], more)
}

/** A request with any Host header, which fetch does not allow. */
export function askAs(
  host: string,
  headers: Record<string, string> = {},
  path = '/api/documents/figure',
): Promise<number> {
  const { port } = new URL(workshop.address)
  return new Promise((resolve, reject) => {
    request({ host: '127.0.0.1', port, path, headers: { host, ...headers } }, (answer) => {
      answer.resume()
      resolve(answer.statusCode ?? 0)
    })
      .on('error', reject)
      .end()
  })
}

/** A workshop of its own for the tests of one file, freshly sown, and the first of its figures. */
export function useWorkshop(): void {
  beforeAll(async () => {
    workshop = await startWorkshop()
    process.env.TINKER_DB = workshop.database
    maren = ((await ask('/api/documents/figure')).body as Figure[])[0]!
  })
  afterAll(async () => {
    await closeDatabase()
    await workshop.stop()
  })
}
