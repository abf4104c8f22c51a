import { AnimationClip, PropertyBinding, QuaternionKeyframeTrack, VectorKeyframeTrack } from 'three'
import type { BodyEntry, PackageFile, PackageManifest, Told } from './manifest.ts'
import { readManifest } from './manifest.ts'
import { settle, type Earned, type Settled } from './looks.ts'
import { readPieces, type Piece } from './Piece.ts'
import { Glb } from './readGlb.ts'

/** Gives the bytes of a file of the package. May fail: the wardrobe then goes on without it, and says so. */
export type ReadFile = (path: string) => Promise<ArrayBuffer | Uint8Array>

/** Reads from where a package is served. */
export function readFrom(url: string): ReadFile {
  return async (path) => {
    const answer = await fetch(new URL(path, new URL(url.replace(/\/?$/, '/'), globalThis.location?.href)))
    if (!answer.ok) throw new Error(`${answer.status}`)
    return answer.arrayBuffer()
  }
}

/** What a body brings when it is opened. */
export interface OpenBody {
  entry: BodyEntry
  piece: Piece
  clips: Map<string, AnimationClip>
}

/** What a look is made of, loaded. */
export interface Fitting extends Settled {
  pieces: Piece[]
}

/** A package that has been opened: what it has is loaded when it is first wanted, and kept. */
export class Wardrobe {
  private readonly files = new Map<string, Promise<Glb>>()
  private readonly chunks = new Map<string, Promise<Map<number, Piece>>>()
  private readonly opened = new Map<string, Promise<OpenBody>>()

  private constructor(
    readonly manifest: PackageManifest,
    private readonly read: ReadFile,
  ) {}

  /** Opens a package. Never throws: what is wrong with it is told. */
  static async open(from: string | ReadFile): Promise<{ wardrobe: Wardrobe | null; told: Told[] }> {
    const read = typeof from === 'string' ? readFrom(from) : from
    try {
      const bytes = await read('package.json')
      const { manifest, told } = readManifest(JSON.parse(new TextDecoder().decode(bytes)))
      return { wardrobe: manifest && new Wardrobe(manifest, read), told }
    } catch (error) {
      return { wardrobe: null, told: [toldOf('package-unread', 'package.json', error)] }
    }
  }

  body(id: string): BodyEntry | null {
    return this.manifest.bodies.find((b) => b.id === id) ?? null
  }

  /** Loads a body's own piece, its skeleton and clips. Fails where they cannot be read: without them there is no figure. */
  openBody(entry: BodyEntry): Promise<OpenBody> {
    return remember(this.opened, entry.id, async () => {
      const glb = await this.glb(entry.base)
      const piece = readPieces(glb, entry).find((p) => p.option === null)
      if (!piece) throw new Error('it has no body in it')
      return { entry, piece, clips: clipsIn(glb, entry) }
    })
  }

  /** The bytes of a file, as the icon of an option or the atlas of a body. Fails where it cannot be read. */
  async bytes(file: PackageFile): Promise<Uint8Array<ArrayBuffer>> {
    const bytes = await this.read(file.path)
    const own = Uint8Array.from(bytes instanceof Uint8Array ? bytes : new Uint8Array(bytes))
    if (own.length !== file.bytes) throw new Error(`it has ${own.length} bytes of ${file.bytes}`)
    return own
  }

  /**
   * Makes a look one that can be worn and loads what it wants. A piece that cannot be loaded is told and left off; what it
   * would hide shows. Never throws.
   */
  async fit(open: OpenBody, wanted: unknown, earned?: Earned, prefer?: string): Promise<Fitting> {
    const { entry } = open
    const settled = settle(entry, wanted, earned, prefer)
    const { told } = settled
    const load = async (slots: readonly number[]) => {
      const found = new Map<number, Piece>()
      await Promise.all(
        slots.map(async (slot) => {
          const { id, chunk } = entry.slots[slot]!
          try {
            for (const [option, piece] of await this.chunk(entry, chunk)) found.set(option, piece)
          } catch (error) {
            told.push(toldOf('piece-missing', id, error))
          }
        }),
      )
      return found
    }
    const pieces = await load([...new Set(settled.worn.map((o) => entry.options[o]!.slot))])
    const missing = settled.worn.filter((o) => !pieces.has(o))
    if (missing.length === 0) return { ...settled, pieces: settled.worn.map((o) => pieces.get(o)!) }
    for (const option of missing) {
      const slot = entry.slots[entry.options[option]!.slot]!
      if (!told.some((t) => t.code === 'piece-missing' && t.where === slot.id))
        told.push({
          code: 'piece-missing',
          where: slot.id,
          message: `“${entry.options[option]!.name}” is not in its file.`,
        })
    }
    // what is worn of the others is worn as it is: rules were met with what is missing on
    const worn = settled.worn.filter((o) => pieces.has(o))
    return { ...settled, worn, pieces: worn.map((o) => pieces.get(o)!) }
  }

  private chunk(entry: BodyEntry, file: PackageFile): Promise<Map<number, Piece>> {
    return remember(this.chunks, file.path, async () => {
      const pieces = readPieces(await this.glb(file), entry)
      return new Map(pieces.flatMap((p) => (p.option === null ? [] : [[p.option, p] as const])))
    })
  }

  private glb(file: PackageFile): Promise<Glb> {
    return remember(this.files, file.path, async () => new Glb(await this.bytes(file)))
  }
}

/** Made once; where it fails it is tried again when it is next wanted. */
function remember<T>(known: Map<string, Promise<T>>, key: string, make: () => Promise<T>): Promise<T> {
  let made = known.get(key)
  if (!made) {
    made = make()
    known.set(key, made)
    made.catch(() => known.delete(key))
  }
  return made
}

export function toldOf(code: string, where: string, error: unknown): Told {
  return { code, where, message: error instanceof Error ? error.message : String(error) }
}

function clipsIn(glb: Glb, entry: BodyEntry): Map<string, AnimationClip> {
  const { nodes = [], animations = [] } = glb.json
  const clips = new Map<string, AnimationClip>()
  for (const { id, name } of entry.clips) {
    const own = animations.find((a) => a.name === name)
    if (!own) continue
    const tracks = own.channels.flatMap(({ sampler, target }) => {
      const bone = nodes[target.node]?.name
      const { input, output } = own.samplers[sampler]!
      if (bone === undefined) return []
      const [times, values] = [glb.floats(input), glb.floats(output)]
      const path = PropertyBinding.sanitizeNodeName(bone)
      if (target.path === 'rotation') return [new QuaternionKeyframeTrack(`${path}.quaternion`, times, values)]
      return target.path === 'translation' ? [new VectorKeyframeTrack(`${path}.position`, times, values)] : []
    })
    clips.set(id, new AnimationClip(id, -1, tracks))
  }
  return clips
}
