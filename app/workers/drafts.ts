import {
  Builder,
  checkLibrary,
  contentHash,
  newRecipe,
  pointTriangles,
  problem,
  readKit,
  referenceTo,
  refitKit,
  setPart,
  type BodyModel,
  type Kit,
  type KnownModels,
  type PartModel,
  type Read,
  type Recipe,
  type Shelf,
  type Target,
} from '@idle-tinker/core'
import { fetchKit } from './fetchKit'
import { figureView } from './figureView'
import { CLAY, viewOf } from './plainView'
import type { DraftAnswer, FigureView, KitDraft, RefitAnswer, RefitAsk } from './protocol'

/** The kit that is being changed as it lies on the server, its models that have been read, and the last draft of it. */
interface Drafted {
  hash: string
  files: Promise<Map<string, Uint8Array>>
  models: KnownModels
  last: { key: string; read: Promise<Read<Kit>> } | null
}
let drafted: Drafted | null = null

/** A draft as a kit; one that was just read is not read again. */
async function readDraft({ address, base, json, files: fresh }: KitDraft): Promise<Read<Kit>> {
  if (drafted?.hash !== address.hash) {
    const begun: Drafted = {
      hash: address.hash,
      files: fetchKit(base, address.id, address.files),
      models: new Map(),
      last: null,
    }
    drafted = begun
    // it is tried again with the next change
    begun.files.catch(() => drafted === begun && (drafted = null))
  }
  const now = drafted
  const key = contentHash([json, ...fresh.map(([path, bytes]) => [path, contentHash(bytes)])])
  if (now.last?.key !== key) {
    const changed = [...fresh, ['kit.json', new TextEncoder().encode(json)] as const]
    now.last = { key, read: now.files.then((files) => readKit(new Map([...files, ...changed]), now.models)) }
  }
  return now.last.read
}

/** Reads a kit as it is to become, and builds a figure with it; nothing of it is kept. */
export async function tryDraft(
  kits: ReadonlyMap<string, Kit>,
  shelf: Shelf,
  draft: KitDraft,
  recipe: Recipe | null,
  target: Target,
): Promise<DraftAnswer> {
  const { value: kit, problems } = await readDraft(draft)
  if (!kit) return { manifest: null, regions: {}, view: null, problems }
  const { id } = draft.address
  if (kit.manifest.id !== id) {
    const kept = problem('kit-id', 'kit.json/id', `A kit keeps its id: figures know it by “${id}”.`, 'Write it back.')
    return { manifest: null, regions: {}, view: null, problems: [kept, ...problems] }
  }
  const all = new Map([...kits, [id, kit] as const])
  const between = checkLibrary(all).filter((p) => p.where.startsWith(`${id}/`))
  const regions = Object.fromEntries([...kit.parts].map(([part, { mesh }]) => [part, mesh.regionNames]))
  const view = recipe && built(all, shelf, recipe, target)
  return { manifest: kit.manifest, regions, view, problems: [...problems, ...between] }
}

function built(kits: ReadonlyMap<string, Kit>, shelf: Shelf, recipe: Recipe, target: Target): FigureView | null {
  const { figure } = new Builder(kits, shelf).build(recipe, target)
  return figure && figureView(figure, `${contentHash(recipe)} ${contentHash([...kits.values()].map((k) => k.hash))}`)
}

/** Carries a part over to another body, and shows it there. */
export async function tryRefit(
  kits: ReadonlyMap<string, Kit>,
  shelf: Shelf,
  { id, name, part, from, to, adjust }: RefitAsk,
  target: Target,
): Promise<RefitAnswer> {
  const { value, problems } = await refitKit(kits, { id, name, parts: [part], from, to, adjust })
  if (!value) return { made: null, problems }
  const { value: kit, problems: faults } = await readKit(value.files)
  const [model] = kit?.parts.values() ?? []
  const [went] = value.parts
  const body = kits.get(to.kit)?.bodies.get(to.id)
  if (!kit || !model || !went || !body) return { made: null, problems: [...problems, ...faults] }
  const all = new Map([...kits, [kit.manifest.id, kit] as const])
  const plain = newRecipe(all.get(to.kit)!, to.id, model.def.name)
  const recipe = setPart(plain, model.def.slot, referenceTo(all, { kit: id, id: model.def.id }))
  const { report, points, doubtfulAt, end } = went
  return {
    made: {
      files: [...value.files],
      worn: built(all, shelf, recipe, target),
      places: placesView(body, model, doubtfulAt),
      moved: report.moved,
      within: report.within,
      doubtful: report.doubtful.length / points,
      end,
    },
    problems: [...problems, ...faults],
  }
}

/** What is doubtful, and what is not. */
const PAINT = { doubtful: '#d23b2f', good: '#5f8f8a' }
/** Points are told apart to a hundredth of a millimetre. */
const keyOf = (x: number, y: number, z: number) => [x, y, z].map((v) => Math.round(v * 1e5)).join()

/** A part on its body in plain colors, its doubtful places in another. */
function placesView(body: BodyModel, { def, mesh }: PartModel, doubtfulAt: Float32Array): FigureView {
  const at = def.how === 'attached' ? body.def.sockets.find((s) => s.id === def.socket)?.at : undefined
  const positions = at ? mesh.positions.map((v, i) => v + at[i % 3]!) : mesh.positions
  const doubtful = new Set<string>()
  for (let i = 0; i < doubtfulAt.length; i += 3)
    doubtful.add(keyOf(doubtfulAt[i]!, doubtfulAt[i + 1]!, doubtfulAt[i + 2]!))
  const isDoubtful = (p: number) => doubtful.has(keyOf(positions[p * 3]!, positions[p * 3 + 1]!, positions[p * 3 + 2]!))
  const triangles = pointTriangles(mesh)
  const colorOf = (t: number) =>
    [0, 1, 2].some((k) => isDoubtful(triangles[t * 3 + k]!)) ? PAINT.doubtful : PAINT.good
  return viewOf([
    { positions: body.mesh.positions, triangles: pointTriangles(body.mesh), colorOf: () => CLAY },
    { positions, triangles, colorOf },
  ])
}
