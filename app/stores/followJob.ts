import type { Problem } from '@idle-tinker/core'
import { ask, Refused } from './api'

/** Work that the server does, as far as it is. */
export interface Job<R> {
  id: string
  state: 'waiting' | 'running' | 'done' | 'failed' | 'canceled'
  done: number
  total: number
  result: R | null
  error: Problem[] | null
}

export const isBusy = (job: { state: string } | null): boolean => job?.state === 'waiting' || job?.state === 'running'

/** Where what is known of a job is put. `away`: how it stands cannot be told at the moment. */
export interface JobPlace<R> {
  job: Job<R> | null
  away: boolean
}

const LOOK_AGAIN = 2000

/** Follows a job of the server. It outlives the page: it is found again after a reload. */
export class JobFollower<R> {
  private events: EventSource | null = null
  private again: ReturnType<typeof setTimeout> | null = null
  /** The one that is followed: what is answered of another is passed over. */
  private current: string | null = null
  private readonly place: () => JobPlace<R>
  private readonly forgotten: (id: string) => void

  /** @param forgotten the server does not know the job any more */
  constructor(place: () => JobPlace<R>, forgotten: (id: string) => void) {
    this.place = place
    this.forgotten = forgotten
  }

  follow(id: string): void {
    this.stop()
    this.current = id
    const stream = new EventSource(`/api/jobs/${id}/events`)
    this.events = stream
    stream.onmessage = ({ data }) => {
      const job = JSON.parse(data as string) as Job<R>
      Object.assign(this.place(), { job, away: false })
      if (!isBusy(job)) stream.close()
    }
    // a stream that only broke is taken up again by the browser; one that was refused is closed for good
    stream.onerror = () => {
      if (stream.readyState !== EventSource.CLOSED || this.events !== stream) return
      this.place().away = true
      this.again = setTimeout(() => void this.look(id), LOOK_AGAIN)
    }
  }

  /** Asks how a job stands whose stream was refused, until an answer comes. */
  async look(id: string): Promise<void> {
    this.current = id
    try {
      const job = await ask<Job<R>>(`/api/jobs/${id}`)
      if (this.current !== id) return
      Object.assign(this.place(), { job, away: false })
      if (isBusy(job)) this.follow(id)
    } catch (error) {
      if (this.current !== id) return
      if (error instanceof Refused && error.status === 404) {
        Object.assign(this.place(), { job: null, away: false })
        this.forgotten(id)
      } else {
        this.place().away = true
        this.again = setTimeout(() => void this.look(id), LOOK_AGAIN)
      }
    }
  }

  async cancel(): Promise<void> {
    const { job } = this.place()
    if (!job) return
    const canceled = await ask<Job<R>>(`/api/jobs/${job.id}/cancel`, 'POST')
    if (this.current !== job.id) return
    this.place().job = canceled
    this.events?.close()
  }

  stop(): void {
    this.current = null
    this.events?.close()
    if (this.again) clearTimeout(this.again)
  }
}
