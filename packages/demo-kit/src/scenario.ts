import {
  MIX_FORMAT,
  newRecipe,
  newTarget,
  partReference,
  setExpression,
  setPart,
  type Kit,
  type Mix,
  type Recipe,
  type Target,
} from '@idle-tinker/core'

interface FigureSpec {
  name: string
  kit: string
  body: string
  parts: string[]
  sliders: Record<string, number>
  colors: Record<string, string>
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
]

const none = (share: number) => ({ part: null, share })
const some = (share: number, ...parts: string[]) => parts.map((part) => ({ part, share }))

/** People of the quay; what they wear differs from crowd to crowd. */
function folkMix(
  kit: Kit,
  id: string,
  name: string,
  count: number,
  seed: number,
  palettes: Mix['palettes'],
  slots: Mix['slots'],
): Mix {
  return {
    format: MIX_FORMAT,
    version: 2,
    id,
    name,
    body: partReference(kit, 'human'),
    count,
    seed,
    triangles: 900,
    slots: {
      eyes: some(1, 'eyes-open', 'eyes-bright', 'eyes-narrow', 'eyes-sleepy'),
      brows: some(1, 'brows-straight', 'brows-arched', 'brows-bushy', 'brows-stern'),
      hair: some(
        1,
        'hair-cropped',
        'hair-tousled',
        'hair-bob',
        'hair-bun',
        'hair-braid',
        'hair-curls',
        'hair-swept',
        'hair-fringe',
      ),
      beard: [none(7), ...some(1, 'beard-full', 'beard-short', 'beard-moustache')],
      ...slots,
    },
    sliders: {
      stature: [-0.8, 0.9],
      build: [-0.7, 0.9],
      stoop: [-0.5, 0.7],
      shoulders: [-0.6, 0.8],
      belly: [-0.3, 0.9],
      bust: [-0.3, 0.8],
      hips: [-0.5, 0.7],
      waist: [-0.5, 0.5],
      legs: [-0.5, 0.5],
      head: [-0.4, 0.4],
      jaw: [-0.8, 0.8],
      nose: [-0.6, 0.9],
      chin: [-0.6, 0.7],
      ears: [-0.5, 0.8],
      cheeks: [-0.6, 0.6],
    },
    palettes,
    atMostOnce: ['peg-leg', 'hat-tall', 'oar'],
  }
}

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
  target('far', 'Lantern Tide, far', 'crowd', 1, 64, [250, 750, 24], 100 << 10, []),
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

/** Everything of the scenario as documents, by file name. */
export function scenario(kits: ReadonlyMap<string, Kit>): Map<string, Recipe | Mix | Target> {
  const documents = new Map<string, Recipe | Mix | Target>()
  const slug = (name: string) => name.toLowerCase().replaceAll(' ', '-')
  for (const spec of FIGURES) {
    const kit = kits.get(spec.kit)!
    let recipe = newRecipe(kit, spec.body, spec.name)
    for (const id of spec.parts) recipe = setPart(recipe, kit.parts.get(id)!.def.slot, partReference(kit, id))
    recipe = { ...recipe, sliders: spec.sliders, colors: spec.colors }
    if (spec.face) recipe = setExpression(recipe, kit.bodies.get(spec.body)!.def, ...spec.face)
    documents.set(`${slug(spec.name)}.recipe.json`, recipe)
  }
  const folk = kits.get('saltwick-folk')!
  const tide = kits.get('tide-creatures')!
  const mixes: Mix[] = [
    folkMix(
      folk,
      'quay-at-noon',
      'Quay at noon',
      60,
      1859,
      [
        { id: 'market-morning', share: 3 },
        { id: 'tar-and-rope', share: 2 },
        { id: 'low-tide', share: 2 },
      ],
      {
        hat: [
          none(4),
          ...some(2, 'cap-knit', 'cap-flat'),
          ...some(1, 'hat-souwester', 'headscarf', 'hat-brimmed', 'hat-tall'),
        ],
        top: some(1, 'shirt-work', 'shirt-rolled', 'jersey'),
        over: [none(4), ...some(1, 'jacket-short', 'waistcoat', 'smock', 'coat-oilskin', 'apron-net')],
        legs: some(1, 'trousers', 'trousers-rolled', 'breeches', 'waders'),
        feet: some(1, 'boots-ankle', 'boots-sea', 'clogs'),
        back: [none(5), ...some(1, 'basket', 'rope-coil', 'net-bundle')],
        'left-leg': [none(59), ...some(1, 'peg-leg')],
        'right-hand': [none(8), ...some(1, 'boathook', 'oar')],
      },
    ),
    folkMix(
      folk,
      'lantern-night',
      'Lantern night',
      240,
      77,
      [
        { id: 'lantern-night', share: 3 },
        { id: 'salt-wedding', share: 1 },
        { id: 'market-morning', share: 1 },
      ],
      {
        hat: [none(5), ...some(1, 'hat-brimmed', 'headscarf', 'cap-flat')],
        neck: [none(3), ...some(1, 'scarf', 'kerchief')],
        top: some(1, 'shirt-work', 'bodice', 'jersey'),
        over: [none(2), ...some(1, 'coat-quay', 'shawl', 'waistcoat', 'jacket-short')],
        legs: some(1, 'trousers', 'breeches'),
        feet: some(1, 'shoes-buckled', 'boots-ankle'),
        'right-hand': [none(2), ...some(1, 'lantern')],
        'left-hand': [none(6), ...some(1, 'mug', 'fish')],
      },
    ),
    {
      format: MIX_FORMAT,
      version: 2,
      id: 'tide-folk-arriving',
      name: 'Tide folk arriving',
      body: partReference(tide, 'ottern'),
      count: 80,
      seed: 4,
      triangles: 900,
      slots: {
        eyes: some(1, 'eyes-round', 'eyes-sly', 'eyes-mild'),
        whiskers: some(1, 'whiskers-long', 'whiskers-short'),
        horns: [none(2), ...some(1, 'horns-coral', 'tufts', 'cap-shell')],
        neck: [none(1), ...some(1, 'scarf-striped', 'frill')],
        vest: [none(1), ...some(1, 'vest-trader')],
        bag: [none(1), ...some(1, 'satchel', 'belt-floats')],
        back: [none(2), ...some(1, 'barnacles')],
        tail: [none(1), ...some(1, 'tail-fin', 'tail-rings')],
        'right-hand': [none(2), ...some(1, 'spear')],
        'left-hand': [none(3), ...some(1, 'pearl')],
      },
      sliders: {
        stature: [-1, 1],
        girth: [-1, 1],
        arms: [-0.6, 0.6],
        head: [-0.5, 0.5],
        muzzle: [-1, 1],
        cheeks: [-1, 1],
        ears: [-1, 1],
        'tail-length': [-1, 1],
        'tail-girth': [-1, 1],
      },
      palettes: [
        { id: 'river-brown', share: 3 },
        { id: 'deep-glow', share: 1 },
        { id: 'salt-wedding', share: 1 },
      ],
      atMostOnce: [],
    },
  ]
  for (const mix of mixes) documents.set(`${mix.id}.mix.json`, mix)
  for (const target of TARGETS) documents.set(`${target.id}.target.json`, target)
  return documents
}
