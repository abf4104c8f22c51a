import { Document, type Node } from '@gltf-transform/core'
import { Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { placedMeshes } from './placedMeshes.ts'

const TRIANGLE = [0, 0, 0, 1, 0, 0, 0, 1, 0]

/** A scene with one mesh under one node; what the node is can be changed. */
function scene(
  change: (node: Node, document: Document) => void = () => undefined,
  positions = TRIANGLE,
  mode: 4 | 5 | 6 = 4,
) {
  const document = new Document()
  const buffer = document.createBuffer()
  const primitive = document
    .createPrimitive()
    .setMode(mode)
    .setAttribute(
      'POSITION',
      document.createAccessor().setType('VEC3').setArray(Float32Array.from(positions)).setBuffer(buffer),
    )
  const node = document.createNode('n').setMesh(document.createMesh().addPrimitive(primitive))
  document.createScene().addChild(node)
  change(node, document)
  return document
}
const placesOf = (document: Document) =>
  placedMeshes(document).primitives.map((p) => [...p.positions].map((v) => Math.round(v * 1e4) / 1e4))
const facing = (document: Document) => {
  const { positions, indices } = placedMeshes(document).primitives[0]!
  const [a, b, c] = [0, 1, 2].map((k) => new Vector3().fromArray(positions, indices[k]! * 3)) as [
    Vector3,
    Vector3,
    Vector3,
  ]
  return b.sub(a).cross(c.sub(a)).normalize()
}

describe('where the triangles of a scene stand', () => {
  it('is after every transform above them: moved, turned, scaled a hundred times', () => {
    const half = new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), Math.PI / 2)
    const document = scene((node, d) => {
      node.setScale([100, 100, 100])
      const above = d
        .createNode('above')
        .setTranslation([0, 5, 0])
        .setRotation(half.toArray() as [number, number, number, number])
      d.getRoot().listScenes()[0]!.addChild(above)
      above.addChild(node)
    })
    expect(placesOf(document)).toEqual([[0, 5, 0, 0, 105, 0, -100, 5, 0]])
  })

  it('keeps them facing outward under a mirroring transform', () => {
    expect(facing(scene()).z).toBeCloseTo(1)
    expect(facing(scene((node) => node.setScale([-1, 1, 1]))).z).toBeCloseTo(1)
  })

  it('counts a mesh once for every node that shows it', () => {
    const document = scene((node, d) => {
      d.getRoot()
        .listScenes()[0]!
        .addChild(d.createNode('twin').setMesh(node.getMesh()).setTranslation([3, 0, 0]))
    })
    expect(placesOf(document)).toEqual([TRIANGLE, TRIANGLE.map((v, i) => (i % 3 === 0 ? v + 3 : v))])
  })

  it('are none of what hangs in no scene, as coarser levels do; all where there is no scene', () => {
    const document = scene((node, d) => d.createNode('coarse').setMesh(node.getMesh()))
    expect(placedMeshes(document).primitives.map((p) => p.node.getName())).toEqual(['n'])
    document.getRoot().listScenes()[0]!.dispose()
    expect(placedMeshes(document).primitives).toHaveLength(2)
  })

  it('is where the joints hold them, not their node, when they are skinned', () => {
    const document = scene((node, d) => {
      const joint = d.createNode('joint').setTranslation([0, 2, 0])
      d.getRoot().listScenes()[0]!.addChild(joint)
      const buffer = d.getRoot().listBuffers()[0]!
      const primitive = node.getMesh()!.listPrimitives()[0]!
      primitive
        .setAttribute('JOINTS_0', d.createAccessor().setType('VEC4').setArray(new Uint8Array(12)).setBuffer(buffer))
        .setAttribute(
          'WEIGHTS_0',
          d
            .createAccessor()
            .setType('VEC4')
            .setArray(Float32Array.from([1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0]))
            .setBuffer(buffer),
        )
      node.setTranslation([50, 0, 0]).setSkin(d.createSkin().addJoint(joint))
    })
    expect(placesOf(document)).toEqual([[0, 2, 0, 1, 2, 0, 0, 3, 0]])
  })

  it('spreads strips and fans into triangles wound alike', () => {
    const square = [0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0]
    const strip = placedMeshes(scene(undefined, square, 5)).primitives[0]!
    expect([...strip.indices]).toEqual([0, 1, 2, 2, 1, 3])
    const fan = placedMeshes(scene(undefined, [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0], 6)).primitives[0]!
    expect([...fan.indices]).toEqual([0, 1, 2, 0, 2, 3])
  })

  it('keeps the joints of several skins apart, each with its name, place and parent', () => {
    const document = scene((_, d) => {
      const [root, tip, other] = ['root', 'tip', 'other'].map((n) => d.createNode(n)) as [Node, Node, Node]
      tip.setTranslation([0, 1, 0])
      root.addChild(d.createNode('between').addChild(tip)).setTranslation([0, 0, 4])
      d.createSkin().addJoint(root).addJoint(tip)
      d.createSkin().addJoint(other)
    })
    expect(placedMeshes(document).joints).toEqual([
      { name: 'root', at: [0, 0, 4], parent: -1 },
      { name: 'tip', at: [0, 1, 4], parent: 0 },
      { name: 'other', at: [0, 0, 0], parent: -1 },
    ])
  })
})
