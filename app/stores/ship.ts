import { defineStore } from 'pinia'
import type { Problem, ShipFormat } from '@idle-tinker/core'
import { fromUint8Array } from 'js-base64'
import type { ShipmentAbout, ShipmentOrder } from '../../server/jobs/shipmentOrder'
import type { PieceReport, ShipmentReport } from '../../server/jobs/shipmentReport'
import { parcelOf } from '../documents/parcels'
import { ask } from './api'
import { isBusy, JobFollower, type Job } from './followJob'
import { useProject } from './project'

export interface ShipJob extends Job<ShipmentReport> {
  about: ShipmentAbout | null
}

/** A shipment as the list shows it. */
export interface Shipped extends Pick<ShipJob, 'id' | 'state' | 'done' | 'total'> {
  error: Problem[] | null
  about: ShipmentAbout
  createdAt: string
  files: number | null
  bytes: number | null
  stayed: number | null
  partly?: number | null
}

const LAST = 'tinker.job'
const follower: JobFollower<ShipmentReport> = new JobFollower(
  () => useShip(),
  () => localStorage.removeItem(LAST),
)

/** An order with every document as it is now; one that is gone stays as it was. */
function asOfNow(order: ShipmentOrder): ShipmentOrder {
  const { documents } = useProject()
  const target = (id: string) => documents.target.find((d) => d.id === id)?.content
  return {
    ...order,
    parcels: order.parcels.map((p) => (p.of && parcelOf(documents, p.kind, p.of)?.parcel) || p),
    targets: order.targets.map((was) => target((was as { id: string }).id) ?? was),
  }
}

/** What leaves, and what has left. The server makes it; its work outlives the page: it is found again after a reload. */
export const useShip = defineStore('ship', {
  /**
   * `away`: how it stands cannot be told at the moment. `what`: what is about to leave. `several`: the parcels of a
   * shipment, “figure:id”; `targets`: those it is for, by id. `formats`: what figures leave as. `motions`: what else than
   * the clips of their kits figures take along, by id. `list`: all shipments, the latest first.
   */
  state: () => ({
    job: null as ShipJob | null,
    away: false,
    what: 'figure' as 'figure' | 'crowd' | 'several',
    several: [] as string[],
    targets: [] as string[],
    motions: [] as string[],
    formats: ['glb'] as ShipFormat[],
    list: [] as Shipped[],
  }),
  getters: {
    busy: (s) => isBusy(s.job),
    /** Whether anything in the list is still to be made. */
    underWay: (s) => s.list.some(isBusy),
  },
  actions: {
    async load() {
      this.list = await ask<Shipped[]>('/api/shipments')
    },
    async start(order: ShipmentOrder) {
      this.job = null
      const { id } = await ask<{ id: string }>('/api/shipments', 'POST', order)
      localStorage.setItem(LAST, id)
      follower.follow(id)
    },
    /** Puts what was made here among the shipments, with its file. */
    async keep(order: ShipmentOrder, piece: PieceReport, file: { name: string; bytes: Uint8Array }) {
      const sent = { name: file.name, base64: fromUint8Array(file.bytes) }
      await ask('/api/shipments/kept', 'POST', { order, pieces: [piece], file: sent })
      await this.load()
    },
    /** Ships the same as it is now; where one insists, with what is at fault. */
    async again(id: string, insist?: boolean) {
      const order = asOfNow(await ask<ShipmentOrder>(`/api/jobs/${id}/order`))
      // it leaves today
      const { date: _, ...rest } = order
      await this.start({ ...rest, insist: insist ?? order.insist })
    },
    /** What came of a shipment, piece by piece. */
    details: (id: string) => ask<ShipJob>(`/api/jobs/${id}`),
    async cancelOne(id: string) {
      if (id === this.job?.id) await follower.cancel()
      else await ask(`/api/jobs/${id}/cancel`, 'POST')
      await this.load()
    },
    async forget(id: string) {
      await ask(`/api/jobs/${id}`, 'DELETE')
      if (id === this.job?.id) {
        this.job = null
        localStorage.removeItem(LAST)
      }
      this.list = this.list.filter((s) => s.id !== id)
    },
    /** Takes up the last job of this browser, if the server still has it. */
    async resume() {
      const id = localStorage.getItem(LAST)
      if (id && !this.job) await follower.look(id)
    },
    cancel: () => follower.cancel(),
  },
})
