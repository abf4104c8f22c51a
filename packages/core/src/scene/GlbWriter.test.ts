import { isDeepStrictEqual } from 'node:util'
import { WebIO } from '@gltf-transform/core'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { glbFaults } from '../testing/glbFaults.ts'
import { GlbWriter } from './GlbWriter.ts'

const read = (bytes: Uint8Array) => new WebIO().readBinary(bytes)

/** One triangle more than vertices, drawn round, with a place in a picture and one that is not a multiple of four. */
function fan(count: number) {
  const file = new GlbWriter({ generator: 'test' })
  const positions = Float32Array.from({ length: count * 3 }, (_, i) => Math.sin(i * 1.7))
  const shades = Uint8Array.from({ length: count * 3 }, (_, i) => i * 7)
  const places = Uint16Array.from({ length: count * 2 }, (_, i) => i * 331)
  const attributes = file.vertices({
    POSITION: { type: 'VEC3', array: positions, bounds: true },
    COLOR_0: { type: 'VEC3', array: shades, normalized: true },
    TEXCOORD_0: { type: 'VEC2', array: places, normalized: true },
  })
  const corners = Array.from({ length: count - 2 }, (_, i) => [0, i + 1, i + 2]).flat()
  const indices = file.triangles(count > 65_535 ? Uint32Array.from(corners) : Uint16Array.from(corners))
  return { file, positions, shades, places, corners, primitive: { attributes, indices } }
}

function show(
  file: GlbWriter,
  primitive: { attributes: Record<string, number>; indices: number; targets?: Record<string, number>[] },
) {
  const mesh = file.add('meshes', { primitives: [primitive] })
  file.json.scenes = [{ nodes: [file.add('nodes', { mesh })] }]
  return file.bytes()
}

describe('a binary glTF file', () => {
  it('gives back what every vertex had, whatever their number and widths', async () => {
    for (const count of [3, 5, 1000, 65_536]) {
      const { file, positions, shades, places, corners, primitive } = fan(count)
      const bytes = show(file, primitive)
      expect(await glbFaults(bytes), String(count)).toEqual([])
      const [found] = (await read(bytes)).getRoot().listMeshes()[0]!.listPrimitives()
      for (const [name, values] of Object.entries({ POSITION: positions, COLOR_0: shades, TEXCOORD_0: places }))
        expect(isDeepStrictEqual(found!.getAttribute(name)!.getArray(), values), `${count} ${name}`).toBe(true)
      expect(isDeepStrictEqual([...found!.getIndices()!.getArray()!], corners)).toBe(true)
    }
  })

  it('gives back moves of targets, written whole or by what moves, also where nothing does', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.float({ noNaN: true, noDefaultInfinity: true }), { minLength: 15, maxLength: 15 }),
        fc.uniqueArray(fc.integer({ min: 0, max: 4 }), { maxLength: 5 }),
        async (values, moving) => {
          const rows = moving.sort((a, b) => a - b)
          const given = Float32Array.from({ length: 15 }, (_, i) => (rows.includes(Math.floor(i / 3)) ? values[i]! : 0))
          const { file, primitive } = fan(5)
          const moves = (own: number[]) =>
            file.moves({
              count: 5,
              rows: own,
              values: Float32Array.from(own.flatMap((r) => values.slice(r * 3, r * 3 + 3))),
            })
          const bytes = show(file, { ...primitive, targets: [{ POSITION: moves(rows) }, { POSITION: moves([]) }] })
          // the validator works the bounds out anew
          expect(await glbFaults(bytes)).toEqual([])
          const [found] = (await read(bytes)).getRoot().listMeshes()[0]!.listPrimitives()
          const back = found!.listTargets().map((t) => [...t.getAttribute('POSITION')!.getArray()!].map((v) => v + 0))
          expect(back).toEqual([[...given].map((v) => v + 0), Array(15).fill(0)]) // no minus zero
        },
      ),
      { numRuns: 60 },
    )
  })

  it('holds names in every script, and is a file even with nothing in it', async () => {
    const file = new GlbWriter()
    const names = ['Ångström', '櫂', '🦦', 'a']
    file.json.scenes = [{ nodes: names.map((name) => file.add('nodes', { name })) }]
    const bytes = file.bytes()
    expect(await glbFaults(bytes)).toEqual([])
    expect(
      (await read(bytes))
        .getRoot()
        .listNodes()
        .map((n) => n.getName()),
    ).toEqual(names)
    expect(await glbFaults(new GlbWriter().bytes())).toEqual([])
  })
})
