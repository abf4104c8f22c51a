import { describe, expect, it } from 'vitest'
import { prepareBody } from '../body/PreparedBody.ts'
import { assembleOutfit } from '../dress/outfit.ts'
import { APART } from '../dress/joinSeam.ts'
import { demoKit, instances, MAREN } from '../testing/demoKits.ts'
import { mergeOutfit } from './mergeOutfit.ts'

const kit = await demoKit('saltwick-folk')
const body = prepareBody(kit.bodies.get('human')!)

describe('an outfit as one mesh', () => {
  // one that brings bones of its own behind another that does
  const swinging = [...kit.parts.values()].filter((p) => p.bones.length > 0).map((p) => p.def.id)
  const outfit = assembleOutfit(body, instances(kit, [...MAREN, ...swinging.slice(0, 2)]))
  const { mesh, pieces, bones, lining } = mergeOutfit(outfit)
  const sources = [
    { mesh: body.model.mesh, hidden: outfit.hiddenBody, joints: body.model.mesh.joints, weld: null, bones: 0 },
    ...outfit.layers.map(({ bound }, i) => ({
      mesh: bound.part.mesh,
      hidden: outfit.hiddenLayers[i]!,
      joints: bound.joints,
      weld: bound.joined?.weld ?? null,
      bones: bound.bones.length,
    })),
  ]

  it('has every triangle that shows, with the look of its own corners', () => {
    pieces.forEach((piece, s) => {
      const { mesh: own, hidden, weld } = sources[s]!
      const shown = [...hidden.keys()].filter((t) => !hidden[t])
      expect(piece.triangles[1] - piece.triangles[0]).toBe(shown.length)
      const expected = shown.flatMap((t) =>
        [...own.indices.subarray(t * 3, t * 3 + 3)].map((c) => {
          const point = own.cornerPoints[c]!
          const welded = weld ? weld[point]! : APART
          return [
            welded === APART ? piece.points[0] + point : welded,
            own.shades[c],
            own.softness[c],
            own.regionNames[own.regions[c]!],
            own.uvs[c * 2],
            own.uvs[c * 2 + 1],
          ].join()
        }),
      )
      const found = [...mesh.indices.subarray(piece.triangles[0] * 3, piece.triangles[1] * 3)].map((c) =>
        [
          mesh.cornerPoints[c],
          mesh.shades[c],
          mesh.softness[c],
          mesh.regionNames[mesh.regions[c]!],
          mesh.uvs[c * 2],
          mesh.uvs[c * 2 + 1],
        ].join(),
      )
      expect(found).toEqual(expected)
    })
    expect(lining.length).toBe(mesh.indices.length / 3)
    expect(Math.max(...mesh.indices)).toBe(mesh.cornerPoints.length - 1)
  })

  it('hangs each part on its own bones, behind those of the parts before', () => {
    expect(swinging.length).toBeGreaterThan(1)
    let before = 0
    let moved = 0
    pieces.forEach((piece, s) => {
      const { joints, bones: own } = sources[s]!
      const first = body.model.bones.length
      joints.forEach((joint, i) => {
        const expected = joint < first ? joint : joint + before
        if (mesh.joints[piece.points[0] * 4 + i] !== expected)
          expect(mesh.joints[piece.points[0] * 4 + i]).toBe(expected)
        if (joint >= first && before > 0) moved++
      })
      before += own
    })
    expect(before).toBe(bones.length)
    expect(moved).toBeGreaterThan(0)
  })
})
