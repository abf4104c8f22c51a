import { FileFault } from '../base/FileFault.ts'
import { childrenOf, type XmlElement } from '../base/readXml.ts'
import { numbersIn } from './colladaNodes.ts'

/** What holds a point. */
export interface Influence {
  joint: number
  weight: number
}

/** What holds each point, the strongest first. */
export function influencesOf(
  weighing: XmlElement,
  inputs: readonly XmlElement[],
  shares: readonly number[],
  joints: number,
): Influence[][] {
  const offset = (semantic: string) => Number(inputs.find((i) => i.attributes.semantic === semantic)?.attributes.offset ?? 0) // prettier-ignore
  const [toJoint, toShare] = [offset('JOINT'), offset('WEIGHT')]
  const step = 1 + Math.max(toJoint, toShare)
  const lists = ['vcount', 'v'].map((name) => childrenOf(weighing, name)[0])
  const [counts, at] = lists.map((list) => (list ? numbersIn(list) : []))
  let next = 0
  return counts!.map((count) => {
    const own: Influence[] = []
    for (let i = 0; i < count; i++, next += step) {
      const joint = at![next + toJoint]
      const weight = shares[at![next + toShare]!]
      if (joint === undefined || weight === undefined || joint >= joints)
        throw new FileFault('collada-index', 'Its skin names a joint or a weight that is not there.')
      // -1 means the shape as it is bound: it hangs on nothing
      if (joint >= 0) own.push({ joint, weight })
    }
    return own.sort((a, b) => b.weight - a.weight)
  })
}
