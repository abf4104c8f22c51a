import type { BufferAttribute } from 'three'
import type { Moves } from '../workers/protocol'

interface Layer extends Moves {
  share: number
}

/** Moves of a mesh's vertices that can be played over each other, each by its name and a share; zero until told. */
export class FaceMoves {
  private readonly position: BufferAttribute
  private readonly normal: BufferAttribute
  private readonly layers = new Map<string, Layer>()
  /** The vertices that any of them moves, and where they and their normals are when none does. */
  private touched = new Uint32Array()
  private still = new Float32Array()
  private changed = false

  constructor(position: BufferAttribute, normal: BufferAttribute) {
    this.position = position
    this.normal = normal
  }

  /** Learns moves by a name, or forgets them; those of another mesh than this one are passed over. The others go on as they are. */
  learn(name: string, moves: Moves | null): void {
    const before = [...this.layers].map(([other, { share }]) => [other, share] as const)
    this.reset()
    this.apply()
    this.layers.delete(name)
    if (moves?.vertices.every((v) => v < this.position.count)) this.layers.set(name, { ...moves, share: 0 })
    this.look()
    for (const [other, share] of before) if (other !== name) this.set(other, share)
    this.apply()
  }

  /** Forgets all but one; what they have moved goes back. */
  drop(except: string): void {
    this.reset()
    this.apply()
    for (const name of this.layers.keys()) if (name !== except) this.layers.delete(name)
    this.look()
  }

  /** The mesh has become another: nothing is known of it, and its vertices are where they are. */
  forget(): void {
    this.layers.clear()
    this.look()
  }

  /** @returns whether there are moves of that name */
  set(name: string, share: number): boolean {
    const layer = this.layers.get(name)
    if (!layer) return false
    if (layer.share !== share) this.changed = true
    layer.share = share
    return true
  }

  /** Brings all to zero, but for one. */
  reset(except?: string): void {
    for (const [name, layer] of this.layers) {
      if (name === except || layer.share === 0) continue
      layer.share = 0
      this.changed = true
    }
  }

  /** Moves the vertices as they have been told. Allocates nothing. */
  apply(): void {
    if (!this.changed) return
    this.changed = false
    const { touched, still } = this
    const [position, normal] = [this.position.array, this.normal.array]
    for (let i = 0; i < touched.length; i++)
      for (let k = 0; k < 3; k++) {
        position[touched[i]! * 3 + k] = still[i * 6 + k]!
        normal[touched[i]! * 3 + k] = still[i * 6 + 3 + k]!
      }
    for (const { share, vertices, offsets, turns } of this.layers.values()) {
      if (share === 0) continue
      for (let i = 0; i < vertices.length; i++)
        for (let k = 0; k < 3; k++) {
          const at = vertices[i]! * 3 + k
          position[at] = position[at]! + share * offsets[i * 3 + k]!
          normal[at] = normal[at]! + share * turns[i * 3 + k]!
        }
    }
    this.position.needsUpdate = this.normal.needsUpdate = true
  }

  /** Where vertices are that have been found to move. */
  private look(): void {
    this.changed = false
    this.touched = Uint32Array.from(new Set([...this.layers.values()].flatMap(({ vertices }) => [...vertices])))
    this.still = new Float32Array(this.touched.length * 6)
    this.touched.forEach((v, i) => {
      this.still.set(this.position.array.subarray(v * 3, v * 3 + 3), i * 6)
      this.still.set(this.normal.array.subarray(v * 3, v * 3 + 3), i * 6 + 3)
    })
  }
}
