import { Matrix4, Quaternion, Vector3 } from 'three'
import { FileFault } from '../base/FileFault.ts'
import { allIn, childrenOf, type XmlElement } from '../base/readXml.ts'

/*
 * What COLLADA 1.4 and 1.5 (ISO/PAS 17506) files stand by: nodes with a row of steps each — matrices, moves, turns,
 * scales — and lists of numbers.
 */

/** One step by which a node stands: what kind, and its numbers. */
export interface Step {
  sid: string
  kind: 'matrix' | 'translate' | 'rotate' | 'scale'
  values: number[]
}

export interface ColladaNode {
  id: string
  sid: string
  name: string
  parent: number
  isJoint: boolean
  steps: Step[]
  element: XmlElement
}

/** The nodes of its scenes and of its library, parents before their children. */
export function nodesOf(whole: XmlElement): ColladaNode[] {
  const nodes: ColladaNode[] = []
  const add = (element: XmlElement, parent: number) => {
    const { id = '', sid = '', name = '', type } = element.attributes
    const own = nodes.length
    const steps = element.children.flatMap((c): Step[] => {
      const size = { matrix: 16, translate: 3, rotate: 4, scale: 3 }[c.name]
      if (size === undefined) return []
      const values = numbersIn(c)
      if (values.length !== size)
        throw new FileFault('collada-values', `“${name || id}” stands by a ${c.name} of ${values.length} numbers.`)
      return [{ sid: c.attributes.sid ?? '', kind: c.name as Step['kind'], values }]
    })
    nodes.push({ id, sid, name: name || sid || id, parent, isJoint: type === 'JOINT', steps, element })
    for (const child of childrenOf(element, 'node')) add(child, own)
  }
  for (const scene of [...allIn(whole, 'visual_scene'), ...allIn(whole, 'library_nodes')])
    for (const node of childrenOf(scene, 'node')) add(node, -1)
  return nodes
}

/** The numbers in an element's text. */
export function numbersIn({ text, name }: XmlElement): number[] {
  const words = text.split(/\s+/).filter(Boolean)
  const values = words.map(Number)
  const wrong = values.findIndex((v) => !Number.isFinite(v))
  if (wrong >= 0) throw new FileFault('collada-values', `“${words[wrong]!.slice(0, 40)}” in a ${name} is no number.`)
  return values
}

/** The turn that brings its axes to Y up. */
export function upTurn(whole: XmlElement): Quaternion {
  const up = allIn(whole, 'up_axis')[0]?.text.trim() ?? 'Y_UP'
  const turn = new Quaternion()
  if (up === 'Z_UP') turn.setFromAxisAngle(new Vector3(1, 0, 0), -Math.PI / 2)
  else if (up === 'X_UP') turn.setFromAxisAngle(new Vector3(0, 0, 1), Math.PI / 2)
  return turn
}

export const rowMajor = (v: readonly number[]) => new Matrix4().set(...(v as Parameters<Matrix4['set']>))

export function localOf(steps: readonly Step[]): Matrix4 {
  const out = new Matrix4()
  for (const { kind, values: v } of steps) {
    const [x, y, z] = v as [number, number, number]
    if (kind === 'matrix') out.multiply(rowMajor(v))
    else if (kind === 'translate') out.multiply(new Matrix4().makeTranslation(x, y, z))
    else if (kind === 'scale') out.multiply(new Matrix4().makeScale(x, y, z))
    else {
      const axis = new Vector3(x, y, z)
      if (axis.lengthSq() > 0) out.multiply(new Matrix4().makeRotationAxis(axis.normalize(), (v[3]! * Math.PI) / 180))
    }
  }
  return out
}

/** The id that an address within the file names. */
export const idOf = (address: string | undefined): string => (address ?? '').replace(/^#/, '')
