import PQueue from 'p-queue'
import { Piscina } from 'piscina'
import { problem } from '@idle-tinker/core'
import type { KitAnswer } from './openKit.ts'

/** A file that wants more is refused, ms and MB. */
const LIMITS = { time: 10_000, memory: 512 }

/** Threads that read what comes from elsewhere, one file at a time, so that nothing it holds keeps the server from answering. */
export class Readers {
  private readonly threads: Piscina
  private readonly time: number
  /** One after another: the time of a file begins when the one before it is through. */
  private readonly queue = new PQueue({ concurrency: 1 })

  /** @param workerFile a module that exports `openKit` */
  constructor(workerFile: string, limits = LIMITS) {
    this.time = limits.time
    this.threads = new Piscina({
      filename: workerFile,
      name: 'openKit',
      minThreads: 0,
      maxThreads: 1,
      idleTimeout: 10_000,
      resourceLimits: { maxOldGenerationSizeMb: limits.memory },
    })
    // each task listens for itself; without any, an error of the pool must not end the process
    this.threads.on('error', (error: unknown) => console.error('readers:', error))
  }

  /** Reads a kit; one that takes too long or too much memory is refused in words. */
  openKit(zip: Uint8Array): Promise<KitAnswer> {
    return this.queue.add(() => this.read(zip))
  }

  close(): Promise<void> {
    return this.threads.destroy()
  }

  private async read(zip: Uint8Array): Promise<KitAnswer> {
    try {
      return (await this.threads.run(zip, { signal: AbortSignal.timeout(this.time) })) as KitAnswer
    } catch (error) {
      const { name, code } = error as { name?: string; code?: string }
      if (name === 'AbortError' || name === 'TimeoutError')
        return refused('kit-slow', `It takes more than ${this.time / 1000} s to read.`)
      if (code === 'ERR_WORKER_OUT_OF_MEMORY') return refused('kit-heavy', 'It takes too much memory to read.')
      throw error
    }
  }
}

function refused(code: string, message: string): KitAnswer {
  return { kit: null, problems: [problem(code, 'zip', message, 'Split the kit, or make its files smaller.')] }
}

let readers: Readers | null = null

export function startReaders(workerFile: string): void {
  readers = new Readers(workerFile)
}

export async function stopReaders(): Promise<void> {
  await readers?.close()
  readers = null
}

/** Those of the server that runs. */
export function theReaders(): Readers {
  if (!readers) throw new Error('The server has not started yet.')
  return readers
}
