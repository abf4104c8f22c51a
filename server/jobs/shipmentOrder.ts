import { version as workshop } from '../../package.json'
import {
  contentHash,
  parcelName,
  problem,
  readClip,
  readMix,
  readMotionDocument,
  readPicks,
  readRecipe,
  readTarget,
  stepsOf,
  type License,
  type Parcel,
  type Problem,
  type Read,
  type Recipe,
  type ShipFormat,
  type ShipSettings,
  type Target,
} from '@idle-tinker/core'

/** A parcel, and the document it is of, if it is of one. */
export type SentParcel = Parcel & { of: string | null }

/** What leaves together: every parcel for every target. */
export interface Shipment extends Omit<ShipSettings, 'date'> {
  name: string
  parcels: SentParcel[]
  targets: Target[]
  /** When it was ordered: “2026-11-29”. */
  date: string
}

/** The same as it is asked for or lies in a row, its documents of any version. */
export interface ShipmentOrder extends Omit<
  Shipment,
  'parcels' | 'targets' | 'motions' | 'keyed' | 'date' | 'license'
> {
  parcels: ParcelOrder[]
  targets: unknown[]
  motions?: unknown[]
  keyed?: unknown[]
  date?: string
  license?: License | null
}

export type ParcelOrder = { of?: string | null } & (
  | { kind: 'figure'; recipe: unknown }
  | { kind: 'crowd'; name: string; mix: unknown; recipes?: unknown[] | null }
  | { kind: 'picks'; picks: unknown }
)

/** An order of before there were shipments: one crowd for one target. */
export interface CrowdOrder {
  name: string
  recipes: unknown[]
  mix: unknown
  target: unknown
  pattern: string
  lods: boolean
  motions?: unknown[]
  keyed?: unknown[]
  formats?: ShipFormat[]
  insist?: boolean
}

/** Such an order as a shipment. */
function upgradeOrder(order: ShipmentOrder | CrowdOrder): ShipmentOrder {
  if (!('recipes' in order)) return order
  const { name, recipes, mix, target, formats = ['glb'], insist = false, ...rest } = order
  return { ...rest, name, formats, insist, folders: '', targets: [target], parcels: [{ kind: 'crowd', name, mix, recipes }] } // prettier-ignore
}

/** The first thing of an order that cannot be read. */
class Unread extends Error {
  readonly problems: Problem[]
  constructor(problems: Problem[]) {
    super()
    this.problems = problems
  }
}

function take<T>({ value, problems }: Read<T>): T {
  if (value === null) throw new Unread(problems)
  return value
}

function readAll<T>(all: unknown, where: string, read: (item: unknown, where: string) => Read<T>): T[] {
  if (!Array.isArray(all))
    throw new Unread([problem('job', where, 'There is nothing to read here.', 'Order it again.')])
  return all.map((item, i) => take(read(item, `${where}/${i}`)))
}

/** Reads the documents of an order; the first that cannot be read is told. */
export function readShipment(order: ShipmentOrder | CrowdOrder, where: string): Read<Shipment> {
  try {
    const { parcels, targets, motions = [], keyed = [], date, license = null, ...rest } = upgradeOrder(order)
    const readParcel = (p: unknown, at: string): Read<SentParcel> => ({
      value: parcelOf(p as ParcelOrder, at),
      problems: [],
    })
    const value: Shipment = {
      ...rest,
      license,
      date: date ?? new Date().toISOString().slice(0, 10),
      parcels: readAll(parcels, `${where}/parcels`, readParcel),
      targets: readAll(targets, `${where}/targets`, readTarget),
      motions: readAll(motions, `${where}/motions`, readMotionDocument),
      keyed: readAll(keyed, `${where}/keyed`, readClip),
    }
    return { value, problems: [] }
  } catch (error) {
    if (error instanceof Unread) return { value: null, problems: error.problems }
    throw error
  }
}

function parcelOf(order: ParcelOrder, where: string): SentParcel {
  const of = order.of ?? null
  if (order.kind === 'figure') return { of, kind: 'figure', recipe: take(readRecipe(order.recipe, `${where}/recipe`)) }
  if (order.kind === 'picks') return { of, kind: 'picks', picks: take(readPicks(order.picks, `${where}/picks`)) }
  const { name, mix } = order
  const recipes = order.recipes ? readAll<Recipe>(order.recipes, `${where}/recipes`, readRecipe) : null
  return { of, kind: 'crowd', name, mix: mix ? take(readMix(mix, `${where}/mix`)) : null, recipes }
}

/** A piece of a shipment: one parcel for one target. */
export interface ShipmentPiece {
  parcel: SentParcel
  target: Target
  steps: number
}

/** What is made one after the other; each can be kept by itself. */
export const piecesOf = ({ parcels, targets }: Pick<Shipment, 'parcels' | 'targets'>): ShipmentPiece[] =>
  targets.flatMap((target) => parcels.map((parcel) => ({ parcel, target, steps: stepsOf(parcel) })))

/** What a list of shipments says of one, and by what one knows later what has changed since. */
export interface ShipmentAbout extends Pick<Shipment, 'formats' | 'lods' | 'insist' | 'pattern' | 'folders' | 'date'> {
  name: string
  parcels: { kind: Parcel['kind']; name: string; of: string | null; hash: string }[]
  targets: { id: string; name: string; hash: string }[]
  /** Kits it is made with, by id: the hash of what they were. */
  kits: Record<string, string>
  /** What its one file is called. */
  file: string
  /** The version of the workshop that made it; not said of those of before it was. */
  workshop?: string
}

/** What of a parcel is compared with what it is later. */
const contentOf = (parcel: Parcel): unknown =>
  parcel.kind === 'figure' ? parcel.recipe : parcel.kind === 'picks' ? parcel.picks : (parcel.mix ?? parcel.recipes)

/** What is said of a shipment; its kits are not known here. @param file what its one file is called */
export function aboutShipment(shipment: Shipment, file: string): ShipmentAbout {
  const { name, parcels, targets, formats, lods, insist, pattern, folders, date } = shipment
  const used = new Set(Array.from(JSON.stringify(parcels).matchAll(/"kit":"([^"]+)"/g), (m) => m[1]!))
  return {
    ...{ name, lods, insist, pattern, folders, date, file, workshop },
    formats: [...formats],
    parcels: parcels.map((p) => ({ kind: p.kind, name: parcelName(p), of: p.of, hash: contentHash(contentOf(p)) })),
    targets: targets.map((t) => ({ id: t.id, name: t.name, hash: contentHash(t) })),
    kits: Object.fromEntries(Array.from(used, (id) => [id, ''])),
  }
}

/** The same with the kits it uses as they are. @param kits those of the project */
export function withKits(about: ShipmentAbout, kits: readonly { id: string; hash: string }[]): ShipmentAbout {
  const used = kits.filter(({ id }) => Object.hasOwn(about.kits, id))
  return { ...about, kits: Object.fromEntries(used.map(({ id, hash }) => [id, hash])) }
}
