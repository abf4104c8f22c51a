import { receiveMessageOnPort } from 'node:worker_threads'
import { zipSync } from 'fflate'
import {
  buildPackage,
  limitsOf,
  loadProver,
  problem,
  readPicks,
  readTarget,
  type Manifests,
  type Picks,
  type Problem,
  type Proof,
  type Prover,
  type Read,
  type Target,
} from '@idle-tinker/core'
import { Wardrobe } from '@idle-tinker/runtime'
import { tryOnLooks, type Tried } from '@idle-tinker/tryout'
import { readKitsOf } from './readKitsOf.ts'
import type { ThreadTask } from './inThread.ts'

/** Steps that progress is told in. */
export const STEPS = 100

export interface BuildPicksOrder {
  picks: unknown
  target: unknown
  /** Whether every three parts that lie on each other are tried on as well. */
  triples?: boolean
}

/** What a package came to. */
export interface PackageReport {
  files: number
  bytes: number
  bodies: (Pick<Proof, 'over' | 'tooMuch' | 'unreachable' | 'bare'> & {
    /** Packages of before it was looked for have none. */
    leaveOut?: Proof['leaveOut']
    /** What sliders and moods move, the same in every look; packages of before it was told have none. */
    morphs?: number
    id: string
    name: string
    costs: { measure: string; least: number; most: number; limit: number; worn: string[] }[]
    /** What each has of its own, if nothing hides any of it. */
    options: { id: string; triangles: number }[]
  })[]
  problems: Problem[]
  /** What trying on came to, by body; packages of before it was done have none. */
  tried?: Tried[]
}

export interface BuildPicksResult {
  zip: Uint8Array | null
  report: PackageReport | null
  problems: Problem[]
}

/** Reads an order; the first document that cannot be read is told. */
export function readBuildPicks(
  order: BuildPicksOrder,
  where: string,
): Read<{ picks: Picks; target: Target; triples: boolean }> {
  const picks = readPicks(order.picks, `${where}/picks`)
  if (!picks.value) return { value: null, problems: picks.problems }
  const target = readTarget(order.target, `${where}/target`)
  if (!target.value) return { value: null, problems: target.problems }
  return { value: { picks: picks.value, target: target.value, triples: order.triples === true }, problems: [] }
}

/** The share of the work after which a package is built, and only has to be tried on. */
const BUILT = 0.6

/** Tries on every pair of parts, with the package as a game would load it. */
async function tryOn(
  files: ReadonlyMap<string, Uint8Array>,
  kits: Manifests,
  prover: Prover,
  triples: boolean,
  told: (done: number) => void,
): Promise<Tried[]> {
  const { wardrobe } = await Wardrobe.open((path) => Promise.resolve(files.get(path)!))
  const bodies = wardrobe?.manifest.bodies ?? []
  const tried: Tried[] = []
  for (const [i, body] of bodies.entries())
    tried.push(
      await tryOnLooks(wardrobe!, body, kits, prover, {
        triples,
        progress: (done) => told(BUILT + ((1 - BUILT) * (i + done)) / bodies.length),
      }),
    )
  return tried
}

class Stopped extends Error {}

/** Builds a package into one zip. Runs in a worker thread; tells its progress over the port, which may say stop. */
export async function buildPicks({ order, kits: kitFiles, prepared, port }: ThreadTask): Promise<BuildPicksResult> {
  try {
    // it may have been ordered before the workshop was updated
    const { value, problems } = readBuildPicks(JSON.parse(order) as BuildPicksOrder, 'job')
    if (!value) return { zip: null, report: null, problems }
    const { kits, shelf } = await readKitsOf(kitFiles, prepared)
    const prover = await loadProver()
    const told = (done: number) => {
      // it works without a pause: messages are looked for, not waited for
      if (receiveMessageOnPort(port)) throw new Stopped()
      port.postMessage(Math.round(done * STEPS))
    }
    const built = await buildPackage(value.picks, kits, value.target, {
      ...{ prover, shelf },
      progress: (_, done) => told(done * BUILT),
    })
    if (!built.value) return { zip: null, report: null, problems: built.problems }
    const { files, manifest, proofs } = built.value
    const tried = await tryOn(files, kits, prover, value.triples, told)
    const zip = zipSync(Object.fromEntries(files), { level: 6, mtime: new Date('2026-01-01T00:00:00Z') })
    const report: PackageReport = {
      ...{ files: files.size, bytes: zip.length, problems: built.problems, tried },
      bodies: manifest.bodies.map(({ id, name, options, morphs }) => {
        const { over, tooMuch, leaveOut, unreachable, bare, costs } = proofs.get(id)!
        const limits = limitsOf(value.target)
        return {
          ...{ id, name, over, tooMuch, leaveOut, unreachable, bare, morphs: morphs.length },
          options: options.map((o) => ({ id: o.id, triangles: o.triangles })),
          costs: Object.entries(costs).map(([measure, { least, most }]) => ({
            ...{ measure, least, most: most.cost, limit: limits[measure]!, worn: most.worn },
          })),
        }
      }),
    }
    return { zip, report, problems: [] }
  } catch (error) {
    if (!(error instanceof Stopped)) throw error
    const canceled = problem('canceled', 'job', 'The job was canceled.', 'Start it again.')
    return { zip: null, report: null, problems: [canceled] }
  } finally {
    port.close()
  }
}
