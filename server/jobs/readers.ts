import { pathToFileURL } from 'node:url'
import PQueue from 'p-queue'
import { Piscina } from 'piscina'
import { problem } from '@idle-tinker/core'
import { KeptKits } from '@idle-tinker/kept'
import type { BodyName, BodyOf, Taken } from '../utils/bodies.ts'
import type { Kind } from '../utils/kinds.ts'
import type { KitAnswer, KitToOpen } from './openKit.ts'
import type { PackedKit } from './packKit.ts'
import { readBody } from './readBody.ts'

/** A file that wants more is refused, ms and MB. */
const LIMITS = { time: 10_000, memory: 512 }

/** What is no longer is read on the spot: the way to a thread and back takes longer. Bytes. */
const SHORT = 32 << 10

/** Threads that read what comes from elsewhere, so that nothing it holds keeps the server from answering. */
export class Readers {
  private readonly threads: Piscina
  private readonly time: number
  /** Kits one after another: the time of a file begins when the one before it is through. */
  private readonly kits = new PQueue({ concurrency: 1 })
  private readonly workerFile: string
  private kept: Promise<KeptKits> | undefined

  /** @param workerFile a module that exports `openKit`, `packKit` and `readBody` */
  constructor(workerFile: string, limits = LIMITS) {
    this.time = limits.time
    this.workerFile = workerFile
    this.threads = new Piscina({
      filename: workerFile,
      minThreads: 0,
      // a kit may take its whole time: documents go past it
      maxThreads: 2,
      idleTimeout: 10_000,
      resourceLimits: { maxOldGenerationSizeMb: limits.memory },
    })
    // each task listens for itself; without any, an error of the pool must not end the process
    this.threads.on('error', (error: unknown) => console.error('readers:', error))
  }

  /**
   * Reads a kit; one that takes too long or too much memory is refused in words.
   *
   * @param over files of the kit that the zip is a change of
   */
  openKit(zip: Uint8Array, over?: ReadonlyMap<string, Uint8Array>): Promise<KitAnswer> {
    return this.kits.add(() => this.read({ zip, over }))
  }

  /** The kits that the threads have read before. */
  keptKits(): Promise<KeptKits> {
    return (this.kept ??= KeptKits.beside(pathToFileURL(this.workerFile).href))
  }

  /**
   * A kit of the project, read and packed; null where that takes too long or too much memory.
   *
   * @param hash  of its files
   * @param files asked for only if it was not read before
   */
  async packKit(hash: string, files: () => Promise<ReadonlyMap<string, Uint8Array>>): Promise<PackedKit | null> {
    const kept = await this.keptKits()
    const known = async () => {
      const packed = await kept.packedKit(hash)
      return packed && { hash, packed, whole: true }
    }
    // several workers of a page ask at once: the first of them has it read
    return (
      (await known()) ??
      this.kits.add(async () => (await known()) ?? this.run('packKit', await files(), () => null, []))
    )
  }

  close(): Promise<void> {
    return this.threads.destroy()
  }

  /** Reads a body, or a document in its row. A buffer that is handed in is of no use afterwards. */
  async readBody<N extends BodyName>(what: N, kind: Kind, body: Uint8Array | string): Promise<Taken<BodyOf<N>>> {
    if (body.length <= SHORT) {
      // others get their turn first
      await new Promise((resolve) => setImmediate(resolve))
      return readBody({ what, kind, body })
    }
    const tooMuch = (detail: string): Taken<BodyOf<N>> => ({
      value: null,
      refusal: { status: 422, title: 'Not valid', detail, problems: [] },
    })
    return this.run('readBody', { what, kind, body }, tooMuch, buffersOf(body))
  }

  private read(task: KitToOpen): Promise<KitAnswer> {
    const tooMuch = (message: string, code: string): KitAnswer => ({
      kit: null,
      problems: [problem(code, 'zip', message, 'Split the kit, or make its files smaller.')],
    })
    return this.run('openKit', task, tooMuch, buffersOf(task.zip))
  }

  /** Has a thread do something; what takes too long or too much memory is refused in words. */
  private async run<T>(
    name: string,
    task: unknown,
    tooMuch: (message: string, code: string) => T,
    transferList: ArrayBuffer[],
  ): Promise<T> {
    try {
      return (await this.threads.run(task, { name, transferList, signal: AbortSignal.timeout(this.time) })) as T
    } catch (error) {
      const { name: kind, code } = error as { name?: string; code?: string }
      if (kind === 'AbortError' || kind === 'TimeoutError')
        return tooMuch(`It takes more than ${this.time / 1000} s to read.`, 'kit-slow')
      if (code === 'ERR_WORKER_OUT_OF_MEMORY') return tooMuch('It takes too much memory to read.', 'kit-heavy')
      throw error
    }
  }
}

/** What can be handed over whole instead of copied: a buffer that holds nothing else. */
function buffersOf(data: Uint8Array | string): ArrayBuffer[] {
  if (typeof data === 'string' || !(data.buffer instanceof ArrayBuffer)) return []
  return data.byteLength === data.buffer.byteLength ? [data.buffer] : []
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
