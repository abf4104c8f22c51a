import { expose, transfer } from 'comlink'
import {
  Builder,
  bendScores,
  clipsOf,
  listClips,
  evenOutNudge,
  isNudgeUneven,
  judgeClip,
  keysOnto,
  nudgedRegions,
  nudgeFault,
  nudgeFigure,
  nudgeOn,
  openCrowd,
  openFigure,
  problem,
  readKit,
  readyPosesOf,
  reducerReady,
  selectCrowdSteps,
  Shelf,
  learnFor,
  spotFor,
  sprungClips,
  unnudgeBody,
  type Kit,
  type Read,
  type Recipe,
} from '@idle-tinker/core'
import { tryDraft, tryRefit } from './drafts'
import { facesOf } from './faces'
import { fetchKit, fetchReading } from './fetchKit'
import { figureView } from './figureView'
import { bringMotions, carryKept, shipMotions } from './motions'
import { makePack, openPack, pieceFile, pieceHealth } from './packs'
import { openMesh, rigMesh, settle } from './rigs'
import { shipOne } from './shipOne'
import { fillShelf, keepShelf } from './shelf'
import type { KitAddress, LoadedKit, LoadedKits, Watch, Workshop } from './protocol'

// earlier versions kept kits there, some megabytes each
if (typeof indexedDB !== 'undefined') indexedDB.deleteDatabase('tinker-kits')

const kits = new Map<string, Kit>()
/** What pairs of bodies and parts come to, from the server and from earlier visits of this browser. */
const shelf = new Shelf()
let builder = new Builder(kits, shelf)
let reductions = 0

/** A kit as the server has read it, else read here from its files. */
async function readingOf(address: KitAddress, base: string): Promise<Read<Kit>> {
  return (await fetchReading(base, address)) ?? readKit(await fetchKit(base, address.id, address.files))
}

const bodyOfFigure = ({ body }: Recipe) => kits.get(body.kit)?.bodies.get(body.id)

/** Between two looks whether to go on, ms. */
const MOMENT = 60

/** Does a piece of work in steps, telling how far it is; null as soon as that says to stop. */
async function watched<T>(steps: Generator<number, T>, watch: Watch): Promise<T | null> {
  let last = performance.now()
  for (;;) {
    const step = steps.next()
    if (step.done) return step.value
    if (performance.now() - last < MOMENT) continue
    // the answer comes from the page: while it is on its way, other calls get their turn too
    if (!(await watch(step.value))) return null
    last = performance.now()
  }
}

const workshop: Workshop = {
  async loadKits(addresses, base) {
    await reducerReady
    const loaded: LoadedKit[] = []
    const broken: LoadedKits['broken'] = []
    const readings = addresses.map((address) => readingOf(address, base))
    // all are on their way before the first is waited for; that one fails is told when it is its turn
    await Promise.allSettled(readings)
    for (const [i, { id }] of addresses.entries())
      try {
        const { value: kit, problems } = await readings[i]!
        if (!kit) {
          broken.push({ id, problems })
          continue
        }
        kits.set(kit.manifest.id, kit)
        const regions: LoadedKit['regions'] = {}
        for (const [name, part] of kit.parts) regions[name] = part.mesh.regionNames
        for (const [name, body] of kit.bodies) regions[name] = body.mesh.regionNames
        loaded.push({ manifest: kit.manifest, hash: kit.hash, regions, problems })
      } catch (error) {
        // one kit that cannot be had keeps none of the others from opening
        const message = error instanceof Error ? error.message : String(error)
        broken.push({ id, problems: [problem('kit-away', id, message, 'Add the kit again, or remove it.')] })
      }
    // one that was removed is not built from any more
    const there = new Set(addresses.map(({ id }) => id))
    for (const id of kits.keys()) if (!there.has(id)) kits.delete(id)
    await fillShelf(shelf, base)
    builder = new Builder(kits, shelf)
    return { loaded, broken }
  },

  async build(recipe, target, reduce) {
    const { figure, problems } = builder.build(recipe, target, { reduce, still: true })
    keepShelf(shelf)
    if (!figure) return { view: null, problems }
    // every reduction is a mesh of its own
    const topology = reduce
      ? `reduced ${++reductions}`
      : JSON.stringify([
          recipe.body,
          recipe.parts,
          recipe.joints,
          figure.pieces.map((p) => [p.kit, p.id]),
          target.detail,
          target.chains,
          target.influences,
          target.atlas,
        ])
    const view = figureView(figure, topology)
    const { positions, normals, uvs, colors, joints, weights, indices } = view.mesh
    return transfer({ view, problems }, [
      positions.buffer,
      normals.buffer,
      uvs.buffer,
      colors.buffer,
      joints.buffer,
      weights.buffer,
      indices.buffer,
      view.atlas.pixels.buffer,
    ])
  },

  async clips(recipe, target) {
    const { figure } = builder.build(recipe, target)
    if (!figure) return []
    return listClips(figure, kits, recipe)
  },

  async bends(recipe, target) {
    const { figure } = builder.build(recipe, target)
    return figure ? bendScores(figure.mesh, figure.skeleton) : []
  },

  async poses(recipe, target) {
    const { figure } = builder.build(recipe, target)
    return figure ? readyPosesOf(figure, kits, recipe) : []
  },

  async helperPoints(recipe, target) {
    return builder.helperPoints(recipe, target)
  },

  async clip(recipe, target, id) {
    const { figure } = builder.build(recipe, target)
    return (figure && clipsOf(figure, kits, recipe, (clip) => clip.id === id)[0]) ?? null
  },

  async bringMotions(file, bytes, beside, recipe, known) {
    return bringMotions(kits, file, bytes, beside, recipe, known)
  },

  async carryMotion(recipe, target, motion) {
    return carryKept(builder, kits, recipe, target, motion)
  },

  async shipMotions(recipe, target, motions) {
    const { bytes, problems } = await shipMotions(builder, kits, recipe, target, motions)
    return bytes ? transfer({ bytes, problems }, [bytes.buffer]) : { bytes, problems }
  },

  async faces(recipe, target, reduce, wanted) {
    const faces = facesOf(builder, kits, recipe, target, reduce, wanted)
    return transfer(
      faces,
      Object.values(faces).flatMap((m) => [m.vertices.buffer, m.offsets.buffer, m.turns.buffer]),
    )
  },

  async playKeys(recipe, target, kept, measured) {
    const { figure, problems } = builder.build(recipe, target)
    const body = bodyOfFigure(recipe)
    if (!figure || !body) return { clip: null, numbers: null, problems }
    const { value, problems: told } = keysOnto(kept, figure.skeleton, body)
    const clip = value && sprungClips([value], figure, recipe)[0]!
    return {
      clip,
      numbers: measured && clip ? judgeClip(figure.mesh, figure.skeleton, clip, body.plan) : null,
      problems: told,
    }
  },

  async nudge(recipe, on, stroke) {
    return nudgeFigure(builder, recipe, on, stroke)
  },

  async nudged(recipe) {
    const [body, nudge] = [bodyOfFigure(recipe), nudgeOn(recipe, undefined)]
    if (!body || !nudge || nudgeFault(nudge, body.mesh)) return { regions: [], uneven: false }
    return { regions: nudgedRegions(body, nudge), uneven: isNudgeUneven(body, nudge) }
  },

  async evenNudge(recipe, like) {
    const body = bodyOfFigure(recipe)
    return body ? evenOutNudge(recipe, body, like) : recipe
  },

  async unnudge(recipe, region) {
    const body = bodyOfFigure(recipe)
    return body ? unnudgeBody(recipe, body, region) : recipe
  },

  async spot(recipe, ask) {
    return spotFor(builder.surfaces(recipe), ask)
  },

  async crowd(mix, watch) {
    const missing = mix.kinds.find(({ body }) => !kits.has(body.kit))
    if (missing) throw new Error(`kit ${missing.body.kit} is not loaded`)
    return watched(selectCrowdSteps(mix, kits), watch)
  },

  sortPack: (ask) => openPack(kits, ask),
  packKit: (order) => makePack(kits, order),
  openMesh: (ask) => openMesh(ask),
  settle: (at, axis) => Promise.resolve(settle(at, axis)),
  rigMesh: (order) => rigMesh(kits, order),
  pieceHealth: (piece, mend) => Promise.resolve(pieceHealth(piece, mend)),

  pieceFile,

  tryDraft: (draft, recipe, target) => tryDraft(kits, shelf, draft, recipe, target),
  tryRefit: (ask, target) => tryRefit(kits, shelf, ask, target),

  open: (bytes, name) => openFigure(bytes, kits, name),
  openCrowd: (bytes, name) => Promise.resolve(openCrowd(bytes, kits, name)),

  ship: (order) => shipOne(builder, kits, order),
  async learn(bytes, file, base, match) {
    await reducerReady
    return learnFor(builder, kits, bytes, file, base, match && { match })
  },
}

expose(workshop)
