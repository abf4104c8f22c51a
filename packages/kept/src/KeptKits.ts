import { createHash, randomBytes } from 'node:crypto'
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { kitHash, Memory, pack, readKit, unpack, type Kit, type Read } from '@idle-tinker/core'

/** How many readings a folder holds, some megabytes each, and how many bytes in all; the oldest go. A project may have dozens of kits. */
const MOST_KEPT = 48
const MOST_BYTES = 256 << 20
/** How many kits a process has at hand. */
const AT_HAND = 8
/** Bytes of a sum. */
const SUM = 64
const NAME = /^[0-9a-f]{64}\.kit$/

/** BLAKE2b: half the time of SHA-256, and kits are megabytes. */
const sumOf = (...parts: (string | Uint8Array)[]) => {
  const hash = createHash('blake2b512')
  for (const part of parts) hash.update(part)
  return hash.digest()
}

/** A kit as its files say it is. */
export interface FreshKit {
  /** What `kitHash` says of its files. */
  hash: string
  /** What `readKit` says of them. */
  read: Read<Kit>
  /** The same packed, if it is kept on disk. */
  packed: Uint8Array | null
}

/**
 * Reads kits; a kit that was read before by this very program is taken as it was read then, at a twentieth of the time.
 * What it finds is either whole or read anew: a folder that cannot be used, or what lies in it, changes no answer.
 */
export class KeptKits {
  /** What this process read last: one command may ask twice, and threads of jobs go on for days. */
  private readonly memory = new Memory(AT_HAND)
  private readonly folder: string | null
  private readonly reader: string

  /**
   * @param folder where readings lie; null keeps none on disk
   * @param reader names the program that reads, and changes whenever any of its code does
   */
  constructor(folder: string | null, reader: string) {
    this.folder = folder
    this.reader = reader
  }

  /**
   * For a program that was bundled into one file: its readings lie beside it, and it is named by all it is made of.
   * Run from its sources, which change while one works on them, it keeps none on disk.
   *
   * @param program the `import.meta.url` of who reads
   */
  static async beside(program: string): Promise<KeptKits> {
    if (!program.startsWith('file:') || !program.endsWith('.mjs')) return new KeptKits(null, '')
    const file = fileURLToPath(program)
    return new KeptKits(join(dirname(file), 'kits'), sumOf(await readFile(file)).toString('hex'))
  }

  /** As `readKit` reads them. */
  async readKit(files: ReadonlyMap<string, Uint8Array>): Promise<Read<Kit>> {
    const key = this.keyOf(await kitHash(files))
    return this.memory.recall('kit', key, async () => {
      const kept = await this.takeFrom(key)
      return kept ? (unpack(kept) as Read<Kit>) : (await this.readAnew(files)).read
    })
  }

  /** Reads one from its files and keeps it on disk, where nothing of it lies in memory; what is refused is not kept. */
  async readAnew(files: ReadonlyMap<string, Uint8Array>): Promise<FreshKit> {
    const read = await readKit(files)
    const hash = read.value?.hash ?? (await kitHash(files))
    // what is refused was quick, and is worth nothing a second time
    if (this.folder === null || !read.value) return { hash, read, packed: null }
    const packed = pack(read)
    await keepAt(this.folder, join(this.folder, `${this.keyOf(hash)}.kit`), packed)
    return { hash, read, packed }
  }

  /**
   * A kit that was read before, as it was packed then; null if none is kept.
   *
   * @param hash what `kitHash` says of its files
   */
  packedKit(hash: string): Promise<Uint8Array | null> {
    return this.takeFrom(this.keyOf(hash))
  }

  private keyOf(hash: string): string {
    return sumOf(`${this.reader}\0${hash}`).toString('hex').slice(0, 64)
  }

  /** What was kept; null if nothing was, or it is not what was written. */
  private async takeFrom(key: string): Promise<Uint8Array | null> {
    if (this.folder === null) return null
    let bytes: Uint8Array
    try {
      bytes = await readFile(join(this.folder, `${key}.kit`))
    } catch {
      // never kept, or not ours to read: the kit's own files are there
      return null
    }
    const content = bytes.subarray(SUM)
    return sumOf(content).equals(bytes.subarray(0, SUM)) ? content : null
  }
}

async function keepAt(folder: string, path: string, content: Uint8Array): Promise<void> {
  const beside = `${path}.${randomBytes(6).toString('hex')}.part`
  try {
    await mkdir(folder, { recursive: true })
    try {
      await writeFile(beside, [sumOf(content), content])
      await rename(beside, path)
    } catch (error) {
      await rm(beside, { force: true })
      throw error
    }
    await dropOldest(folder)
  } catch {
    // full, read-only or another's: it is read again the next time
  }
}

async function dropOldest(folder: string): Promise<void> {
  const names = (await readdir(folder)).filter((name) => NAME.test(name))
  const kept = await Promise.all(names.map(async (name) => ({ name, ...(await infoOf(join(folder, name))) })))
  let bytes = 0
  for (const [i, { name, size }] of kept.sort((a, b) => b.written - a.written).entries()) {
    bytes += size
    // the one that was just written stays, however large
    if (i > 0 && (i >= MOST_KEPT || bytes > MOST_BYTES)) await rm(join(folder, name), { force: true })
  }
}

async function infoOf(path: string): Promise<{ size: number; written: number }> {
  const { size, mtimeMs } = await stat(path)
  return { size, written: mtimeMs }
}
