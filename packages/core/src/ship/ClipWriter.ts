import type { GLTF } from '@gltf-transform/core'
import type { GlbWriter } from '../scene/GlbWriter.ts'
import type { ClipExtras } from './extras.ts'
import type { KeyedClip, Track } from './clipKeys.ts'

/** One clip of a file. */
export class ClipWriter {
  private readonly file: GlbWriter
  private readonly clip: GLTF.IAnimation

  /** @param extras what is said of it besides */
  constructor(file: GlbWriter, name: string, extras?: ClipExtras) {
    this.file = file
    this.clip = { name, channels: [], samplers: [], ...(extras && { extras: { ...extras } }) }
    file.add('animations', this.clip)
  }

  /** Times of keys, seconds. */
  input(times: Float32Array): number {
    return this.file.accessor('keys', { type: 'SCALAR', array: times, bounds: true })
  }

  track(
    node: number,
    path: GLTF.AnimationChannelTargetPath,
    input: number,
    type: GLTF.AccessorType,
    array: Float32Array,
  ): void {
    const output = this.file.accessor('keys', { type, array })
    const sampler = this.clip.samplers.push({ input, output, interpolation: 'LINEAR' }) - 1
    this.clip.channels.push({ sampler, target: { node, path } })
  }
}

/**
 * @param joints the nodes of the bones, and of those they hang on
 * @param on     the node whose morphs the face is, and their names; expressions that are not among them are left out
 */
export function writeClip(
  file: GlbWriter,
  { name, loop, tracks, way = [], face }: KeyedClip,
  joints: readonly number[],
  on: { node: number; morphs: readonly string[] } | null,
  above: readonly number[] = [],
): void {
  const clip = new ClipWriter(file, name, loop ? { loop } : undefined)
  const inputs = new Map<string, number>()
  const write = (nodes: readonly number[], { bone, path, times, values, at }: Track) => {
    let input = inputs.get(at)
    if (input === undefined) inputs.set(at, (input = clip.input(times)))
    clip.track(nodes[bone]!, path, input, path === 'rotation' ? 'VEC4' : 'VEC3', values)
  }
  for (const track of tracks) write(joints, track)
  for (const track of way) write(above, track)
  if (!on || !face?.names.some((n) => on.morphs.includes(n))) return
  const [keys, own, all] = [face.times.length, face.names.length, on.morphs.length]
  const weights = new Float32Array(keys * all)
  face.names.forEach((n, k) => {
    const at = on.morphs.indexOf(n)
    if (at >= 0) for (let i = 0; i < keys; i++) weights[i * all + at] = face.shares[i * own + k]!
  })
  clip.track(on.node, 'weights', clip.input(face.times), 'SCALAR', weights)
}
