import {
  addPart,
  Builder,
  newRecipe,
  newTarget,
  partReference,
  setExpression,
  setPart,
  spotFor,
  type Kit,
  type Mix,
  type Picks,
  type Recipe,
  type Target,
} from '@idle-tinker/core'
import { crowds } from './crowds.ts'
import { sailLoft } from './picks.ts'

interface FigureSpec {
  name: string
  kit: string
  body: string
  parts: string[]
  sliders: Record<string, number>
  colors: Record<string, string>
  /** What was set on them by hand: a part, the place on the figure it is nearest to, metres; and on the other side too. */
  placed?: { part: string; at: [number, number, number]; scale?: number; both?: boolean }[]
  /** How they look at the world, and how strongly. */
  face?: [expression: string, strength: number]
}

/** The named people of Lantern Tide. */
const FIGURES: FigureSpec[] = [
  {
    name: 'Maren Quill',
    kit: 'saltwick-folk',
    body: 'human',
    parts: [
      'hair-braid',
      'eyes-bright',
      'brows-arched',
      'shirt-work',
      'coat-quay',
      'trousers',
      'boots-sea',
      'hat-brimmed',
      'ledger',
    ],
    sliders: {
      bust: 0.6,
      hips: 0.4,
      waist: -0.5,
      jaw: -0.5,
      nose: -0.25,
      shoulders: -0.45,
      neck: -0.3,
      legs: 0.2,
      build: -0.25,
    },
    colors: { hair: '#8a4a24', felt: '#9a7a4e', iris: '#4f7d86' },
  },
  {
    name: 'Odd Pellow',
    face: ['smug', 0.8],
    kit: 'saltwick-folk',
    body: 'human',
    parts: [
      'hair-curls',
      'eyes-narrow',
      'brows-straight',
      'beard-chin',
      'jersey',
      'jacket-short',
      'trousers',
      'boots-ankle',
      'hat-tall',
      'scarf',
      'lantern',
    ],
    sliders: { stature: 0.9, build: -0.7, nose: 0.7, neck: -0.4, ears: 0.4 },
    colors: {
      skin: '#7d4b30',
      hair: '#2a1d18',
      brow: '#2a1d18',
      lips: '#8a4a40',
      coat: '#33406b',
      'coat-lining': '#d9a441',
      scarf: '#e08a2f',
      iris: '#5b4630',
      felt: '#2d2f4a',
      trousers: '#4c4560',
    },
  },
  {
    name: 'Tamsin Reke',
    face: ['surprised', 0.3],
    kit: 'saltwick-folk',
    body: 'human',
    parts: ['hair-bun', 'eyes-bright', 'brows-arched', 'bodice', 'skirt-work', 'apron-net', 'clogs', 'headscarf'],
    sliders: { bust: 0.8, hips: 0.7, waist: -0.5, stature: -0.4, jaw: -0.6, nose: -0.5, cheeks: 0.5 },
    colors: {
      skin: '#c98a5e',
      hair: '#4a2c1b',
      brow: '#4a2c1b',
      scarf: '#d9483a',
      bodice: '#3f7f72',
      skirt: '#5f7f86',
    },
  },
  {
    name: 'Old Berrit',
    face: ['weary', 0.6],
    kit: 'saltwick-folk',
    body: 'human',
    parts: [
      'hair-fringe',
      'eyes-sleepy',
      'brows-bushy',
      'beard-full',
      'shirt-rolled',
      'waistcoat',
      'breeches',
      'peg-leg',
      'boots-ankle',
      'cap-knit',
      'boathook',
    ],
    sliders: { stoop: 1, belly: 0.8, nose: 0.9, ears: 0.9, stature: -0.3, build: 0.2, cheeks: -0.5 },
    colors: { hair: '#d8d2c4', brow: '#b8b2a6', skin: '#e3aa80', waistcoat: '#57706a' },
  },
  {
    name: 'Isolde Fenn',
    face: ['glad', 0.7],
    kit: 'saltwick-folk',
    body: 'human',
    parts: ['hair-bob', 'eyes-open', 'brows-straight', 'shirt-work', 'shawl', 'skirt-work', 'shoes-buckled', 'ledger'],
    sliders: { bust: 0.4, hips: 0.2, build: -0.5, neck: -0.5, jaw: -0.5, chin: 0.2, nose: -0.2 },
    colors: { skin: '#f0c39c', hair: '#2a1d18', brow: '#2a1d18', shawl: '#5f8fb0', skirt: '#5a3564', iris: '#3c5f8a' },
  },
  {
    name: 'Brother Eel',
    kit: 'tide-creatures',
    body: 'ottern',
    parts: ['eyes-mild', 'whiskers-long', 'scarf-striped', 'satchel', 'spear'],
    sliders: { girth: 0.5, cheeks: 0.4 },
    colors: {},
  },
  {
    name: 'Sister Sedge',
    kit: 'tide-creatures',
    body: 'ottern',
    parts: ['eyes-sly', 'whiskers-short', 'horns-coral', 'frill', 'tail-rings', 'pearl'],
    sliders: { girth: -0.6, muzzle: 0.5, ears: 0.6, 'tail-length': 0.6 },
    colors: { fur: '#31505c', belly: '#a8d8c8', coral: '#e0735a' },
  },
  {
    name: 'Tick',
    face: ['wary', 0.7],
    kit: 'tide-creatures',
    body: 'gulper',
    parts: ['eyes-pods', 'teeth-needles', 'spikes', 'satchel-gulper'],
    sliders: { stature: -0.5, gape: 0.2, brow: 0.3, thighs: 0.4, 'mouth-width': 0.4 },
    colors: { leather: '#8a5a34' },
    placed: [
      { part: 'eye-pod', at: [0, 0.85, 0.02], scale: 1.15 },
      { part: 'eye-pod', at: [0.38, 0.62, 0.12], scale: 0.95, both: true },
      { part: 'growth-barnacle', at: [-0.2, 0.6, -0.36] },
      { part: 'growth-bead', at: [0.3, 0.45, -0.34], scale: 0.8 },
    ],
  },
  {
    name: 'Long Annie',
    kit: 'tide-creatures',
    body: 'lampstrider',
    parts: ['eyes-wader-mild', 'lure-lantern', 'collar-bell', 'panniers', 'leg-wraps', 'tail-rings-wader'],
    sliders: { legs: 0.6, 'neck-length': 0.5, 'neck-curve': 0.4, beak: 0.3, 'beak-bend': 0.3, keel: 0.2 },
    colors: { scarf: '#b8863a', 'scarf-stripe': '#f0e0b8' },
    placed: [
      { part: 'growth-limpet', at: [-0.16, 1.35, -0.36] },
      { part: 'growth-coral', at: [0, 1.5, -0.25], scale: 0.9 },
    ],
  },
]

const MIB = 1 << 20

/** What the game of the scenario allows its figures. */
const TARGETS: Target[] = [
  // near the camera faces are seen to move
  {
    ...target('near', 'Lantern Tide, near the camera', 'near', 4, 128, [3500, 9000, 45], 2 * MIB, [1600, 700]),
    keepExpressions: 'all',
  },
  target('standard', 'Lantern Tide, middle distance', 'standard', 4, 128, [2200, 6500, 34], MIB, [900, 400]),
  target('crowd', 'Lantern Tide, crowd', 'crowd', 2, 64, [900, 2700, 24], 200 << 10, [450, 200]),
  target('far', 'Lantern Tide, far', 'far', 1, 64, [250, 750, 16], 100 << 10, []),
  // a player's own figure: nothing of it is reduced, as it is put on piece by piece
  target('mirror', 'Lantern Tide, in the mirror', 'near', 4, 256, [7000, 24_000, 45], 8 * MIB, [3500, 1600, 700]),
]

function target(
  id: string,
  name: string,
  detail: Target['detail'],
  influences: Target['influences'],
  atlas: Target['atlas'],
  [triangles, vertices, bones]: [number, number, number],
  fileBytes: number,
  lods: number[],
): Target {
  return {
    ...newTarget(id, name),
    detail,
    influences,
    atlas,
    limits: { triangles, vertices, bones, drawCalls: 1, textureBytes: atlas * atlas * 4, fileBytes },
    lods: lods.map((limit) => ({ triangles: limit })),
  }
}

/** Sets parts on a figure as a hand would: on the skin, as it stands with its sliders. */
function withPlaced(recipe: Recipe, { kit, placed = [] }: FigureSpec, kits: ReadonlyMap<string, Kit>): Recipe {
  if (placed.length === 0) return recipe
  const surfaces = new Builder(kits).surfaces(recipe)
  return placed.reduce((now, { part, at, scale, both }) => {
    const { slot } = kits.get(kit)!.parts.get(part)!.def
    const spot = spotFor(surfaces, { on: null, from: at })!
    const add = (to: Recipe, there: typeof spot, mirrored: boolean) =>
      addPart(to, slot, partReference(kits.get(kit)!, part), {
        place: { at: there, ...(scale && { scale }), ...(mirrored && { mirrored }) },
      })
    const one = add(now, spot, false)
    return both ? add(one, spotFor(surfaces, { on: null, from: spot, then: 'across' })!, true) : one
  }, recipe)
}

/** Everything of the scenario as documents, by file name. */
export function scenario(kits: ReadonlyMap<string, Kit>): Map<string, Recipe | Mix | Target | Picks> {
  const documents = new Map<string, Recipe | Mix | Target | Picks>()
  const slug = (name: string) => name.toLowerCase().replaceAll(' ', '-')
  for (const spec of FIGURES) {
    const kit = kits.get(spec.kit)!
    let recipe = newRecipe(kit, spec.body, spec.name)
    for (const id of spec.parts) recipe = setPart(recipe, kit.parts.get(id)!.def.slot, partReference(kit, id))
    recipe = { ...recipe, sliders: spec.sliders, colors: spec.colors }
    if (spec.face) recipe = setExpression(recipe, kit.bodies.get(spec.body)!.def, ...spec.face)
    documents.set(`${slug(spec.name)}.recipe.json`, withPlaced(recipe, spec, kits))
  }
  for (const mix of crowds(kits.get('saltwick-folk')!, kits.get('tide-creatures')!))
    documents.set(`${mix.id}.mix.json`, mix)
  for (const target of TARGETS) documents.set(`${target.id}.target.json`, target)
  const picks = sailLoft(kits)
  documents.set(`${picks.id}.picks.json`, picks)
  return documents
}
