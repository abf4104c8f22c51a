import { SaxesParser } from 'saxes'

/** An element of an XML file: what it is called, what is said of it, what stands in it. */
export interface XmlElement {
  name: string
  attributes: Record<string, string>
  children: XmlElement[]
  /** All text directly in it. */
  text: string
}

/** What an XML file may have at most: elements, and how deep they lie in each other. */
const MOST = { elements: 200_000, deep: 200 }

/**
 * Reads an XML file. Entities besides those of XML itself are not known, so that none can grow.
 *
 * @param passed elements that are passed over with all that is in them
 * @throws where it is no XML, or has more than any file of use
 */
export function readXml(text: string, passed: ReadonlySet<string> = new Set()): XmlElement {
  const parser = new SaxesParser({ xmlns: false, position: true })
  const root: XmlElement = { name: '', attributes: {}, children: [], text: '' }
  const open = [root]
  const pieces: string[][] = [[]]
  let [count, skipping] = [0, 0]
  parser.on('opentag', ({ name, attributes }) => {
    if (skipping > 0 || passed.has(name)) {
      skipping++
      return
    }
    if (++count > MOST.elements) throw new Error(`It has more than ${MOST.elements} elements.`)
    if (open.length > MOST.deep) throw new Error(`Its elements lie more than ${MOST.deep} deep in each other.`)
    const element: XmlElement = { name, attributes: { ...attributes }, children: [], text: '' }
    open.at(-1)!.children.push(element)
    open.push(element)
    pieces.push([])
  })
  const take = (piece: string) => {
    if (skipping === 0) pieces.at(-1)!.push(piece)
  }
  parser.on('text', take)
  parser.on('cdata', take)
  parser.on('closetag', () => {
    if (skipping > 0) {
      skipping--
      return
    }
    open.pop()!.text = pieces.pop()!.join('')
  })
  parser.on('error', (error) => {
    throw new Error(`It is no XML that can be read: ${error.message.trim().replace(/\.?$/, '.')}`)
  })
  parser.write(text).close()
  const whole = root.children[0]
  if (!whole) throw new Error('It has no element.')
  return whole
}

/** The elements of a name in another, directly. */
export const childrenOf = ({ children }: XmlElement, name: string): XmlElement[] =>
  children.filter((c) => c.name === name)

/** All elements of a name in another, however deep. */
export function allIn(element: XmlElement, name: string): XmlElement[] {
  const found: XmlElement[] = []
  const queue = [element]
  for (let at = queue.pop(); at; at = queue.pop()) {
    if (at.name === name) found.push(at)
    for (let i = at.children.length - 1; i >= 0; i--) queue.push(at.children[i]!)
  }
  return found
}
