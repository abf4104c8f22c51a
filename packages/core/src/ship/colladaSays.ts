import { allIn, readXml, type XmlElement } from '../base/readXml.ts'
import type { Convention } from '../recipe/target.ts'
import { EXTRAS_KEY } from './extras.ts'

/** What a COLLADA file says of itself. */
export interface ColladaSays {
  /** Metres in one of its units; null where nothing is said. */
  unit: number | null
  up: Convention['up']
  /** Of its first mesh; 0 if it has none. */
  triangles: number
  pictures: string[]
  /** What it was made from, where it was shipped from here; null where nothing readable is said. */
  extras: unknown
}

const UPS: Readonly<Record<string, Convention['up']>> = { X_UP: '+x', Y_UP: '+y', Z_UP: '+z' }
/** Of these only is asked how many there are, or nothing. */
const PASSED = new Set(['library_animations', 'library_controllers', 'library_visual_scenes', 'source', 'vertices'])

/** Reads the head of a COLLADA file; null of what is no XML. */
export function colladaSays(text: string): ColladaSays | null {
  let whole: XmlElement
  try {
    whole = readXml(text, PASSED)
  } catch {
    // whoever reads it as a whole tells why
    return null
  }
  const meter = Number(allIn(whole, 'unit')[0]?.attributes.meter)
  const mesh = allIn(whole, 'geometry')[0]
  const faces = mesh ? ['triangles', 'polylist', 'polygons'].flatMap((kind) => allIn(mesh, kind)) : []
  return {
    unit: meter > 0 && Number.isFinite(meter) ? meter : null,
    up: UPS[allIn(whole, 'up_axis')[0]?.text.trim() ?? ''] ?? '+y',
    triangles: faces.reduce((sum, e) => sum + (Number(e.attributes.count) || 0), 0),
    pictures: allIn(whole, 'image').flatMap((i) => allIn(i, 'init_from').map((f) => f.text.trim())),
    extras: extrasOf(whole),
  }
}

function extrasOf(whole: XmlElement): unknown {
  const extra = allIn(whole, 'extra').find((e) => e.attributes.type === EXTRAS_KEY)
  const said = extra && allIn(extra, 'recipe')[0]?.text
  try {
    return said ? (JSON.parse(said) as unknown) : null
  } catch {
    // a file that somebody has changed: nothing readable
    return null
  }
}
