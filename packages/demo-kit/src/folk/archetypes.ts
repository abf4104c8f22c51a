import type { BodyDef } from '@idle-tinker/core'

/* Who lives on the quay: people one believes in, and the faces they have. */

type Sets = NonNullable<BodyDef['archetypes']>
type Archetype = Sets[number]['archetypes'][number]

const GREYS = ['#9b9690', '#e4e0d6', '#b8b2a8']
const YOUNG = {
  hair: ['#2a1d18', '#4a2c1b', '#8a4a24', '#b9733a', '#d9a850'],
  brow: ['#2a1d18', '#4a2c1b', '#6a3a20'],
}
const NO_BEARD = { beard: [null] }
const SHAVEN_OR_NOT = {
  beard: [null, null, 'beard-short', 'beard-full', 'beard-moustache', 'beard-chin', 'beard-sides', 'beard-forked'],
}
const WOMEN_HAIR = {
  hair: ['hair-bob', 'hair-bun', 'hair-braid', 'hair-curls', 'hair-fringe', 'hair-plaits', 'hair-loose'],
}

const PEOPLE: Archetype[] = [
  {
    id: 'docker',
    name: 'Docker',
    sliders: {
      sex: [0.75, 0.3],
      muscle: [0.65, 0.22],
      heft: [0.15, 0.3],
      build: [0.45, 0.25],
      years: [0.1, 0.15],
      stature: [0.15, 0.35],
      hands: [0.4, 0.2],
      neck: [0.3, 0.2],
    },
    swatches: YOUNG,
    parts: {
      ...SHAVEN_OR_NOT,
      hat: [null, 'cap-flat', 'cap-knit', 'hat-souwester', 'bandana'],
      legs: ['trousers', 'waders', 'trousers-rolled', 'overalls'],
      top: ['shirt-rolled', 'jersey', 'shirt-work', 'shirt-striped', 'shirt-sleeveless', 'rollneck'],
      over: [null, null, 'waistcoat', 'jacket-short'],
      feet: ['boots-sea', 'boots-ankle', 'clogs'],
      back: [null, null, 'rope-coil', 'basket', 'net-bundle'],
    },
  },
  {
    id: 'net-mender',
    name: 'Net mender',
    sliders: {
      sex: [-0.75, 0.2],
      heft: [0.3, 0.35],
      years: [0.3, 0.25],
      build: [0, 0.25],
      stoop: [0.25, 0.2],
      hands: [0.2, 0.2],
      hips: [0.2, 0.25],
    },
    parts: {
      ...NO_BEARD,
      ...WOMEN_HAIR,
      hat: [null, 'headscarf', 'headscarf'],
      legs: ['skirt-work', 'skirt-work', 'breeches'],
      over: ['apron-net', 'shawl', 'smock'],
      neck: [null, 'kerchief', 'cork-floats'],
      brows: ['brows-straight', 'brows-arched'],
    },
  },
  {
    id: 'clerk',
    name: 'Clerk',
    sliders: {
      sex: [0.2, 0.6],
      build: [-0.5, 0.2],
      muscle: [-0.5, 0.2],
      heft: [-0.1, 0.4],
      years: [0.15, 0.2],
      stoop: [0.2, 0.15],
      hands: [-0.3, 0.15],
      neck: [-0.3, 0.15],
    },
    parts: {
      beard: [null, null, 'beard-moustache', 'beard-chin'],
      hat: [null, 'hat-brimmed', 'hat-tall'],
      top: ['shirt-work', 'shirt-ruffled'],
      over: ['waistcoat', 'coat-quay', 'jacket-short', 'tailcoat', 'greatcoat'],
      legs: ['trousers', 'breeches'],
      feet: ['shoes-buckled', 'boots-ankle'],
      back: [null],
      'left-hand': ['ledger', null],
    },
    palettes: ['lantern-night', 'low-tide', 'salt-wedding', 'tar-and-rope'],
  },
  {
    id: 'elder-man',
    name: 'Old salt',
    sliders: {
      sex: [0.7, 0.2],
      years: [0.85, 0.12],
      stature: [-0.2, 0.25],
      heft: [0, 0.4],
      stoop: [0.2, 0.2],
      muscle: [-0.2, 0.25],
    },
    parts: {
      beard: ['beard-full', 'beard-short', 'beard-moustache', 'beard-forked', 'beard-sides', null],
      brows: ['brows-bushy', 'brows-bushy', 'brows-straight'],
      eyes: ['eyes-narrow', 'eyes-sleepy', 'eyes-open'],
      hair: ['hair-cropped', 'hair-swept', null],
      hat: ['cap-flat', 'cap-knit', 'hat-souwester', 'cap-mate', null],
    },
    swatches: { hair: GREYS, brow: ['#8d8880', '#b8b2a8'] },
  },
  {
    id: 'elder-woman',
    name: 'Grandmother',
    sliders: { sex: [-0.8, 0.15], years: [0.85, 0.12], stature: [-0.45, 0.25], heft: [0.3, 0.4], stoop: [0.15, 0.2] },
    parts: {
      ...NO_BEARD,
      hair: ['hair-bun', 'hair-curls', 'hair-bob'],
      hat: [null, 'headscarf'],
      legs: ['skirt-work'],
      over: ['shawl', 'apron-net', 'smock'],
      eyes: ['eyes-sleepy', 'eyes-narrow', 'eyes-open'],
    },
    swatches: { hair: GREYS, brow: ['#8d8880', '#b8b2a8'] },
  },
  {
    id: 'fishwife',
    name: 'Fishwife',
    sliders: {
      sex: [-0.8, 0.15],
      heft: [0.65, 0.25],
      build: [0.3, 0.25],
      muscle: [0.2, 0.25],
      years: [0.1, 0.15],
      bust: [0.2, 0.3],
      stature: [-0.1, 0.3],
    },
    swatches: YOUNG,
    parts: {
      ...NO_BEARD,
      ...WOMEN_HAIR,
      top: ['shirt-rolled', 'bodice', 'dress-market'],
      legs: ['skirt-work'],
      over: ['apron-net', null, 'shawl'],
      'left-hand': ['fish', null, 'fish'],
      feet: ['clogs', 'boots-ankle'],
    },
  },
  {
    id: 'mate',
    name: 'Ship’s mate',
    sliders: {
      sex: [-0.1, 0.75],
      muscle: [0.2, 0.3],
      build: [0, 0.3],
      heft: [-0.2, 0.25],
      years: [0, 0.12],
      stature: [0.2, 0.4],
    },
    swatches: YOUNG,
    parts: {
      beard: [null],
      over: ['coat-quay', 'jacket-short', 'coat-oilskin', null],
      legs: ['trousers', 'breeches', 'trousers-rolled', 'trousers-wide'],
      feet: ['boots-sea', 'boots-ankle'],
    },
  },
  {
    id: 'youth',
    name: 'Youth',
    sliders: { years: [-0.38, 0.1], sex: [0, 0.5], heft: [-0.15, 0.25], muscle: [-0.2, 0.2], build: [-0.25, 0.2] },
    swatches: YOUNG,
    parts: {
      ...NO_BEARD,
      eyes: ['eyes-bright', 'eyes-open'],
      hat: [null, null, 'cap-flat', 'cap-knit'],
      over: [null, 'jacket-short', 'smock', 'waistcoat'],
      back: [null],
    },
  },
  {
    id: 'child',
    name: 'Child',
    sliders: { years: [-0.85, 0.1], sex: [0, 0.25], heft: [0, 0.3], muscle: [0, 0.1], build: [0, 0.15], stoop: [0, 0] },
    swatches: YOUNG,
    parts: {
      ...NO_BEARD,
      eyes: ['eyes-bright', 'eyes-open'],
      brows: ['brows-arched', 'brows-straight'],
      hair: ['hair-tousled', 'hair-fringe', 'hair-bob', 'hair-braid', 'hair-curls'],
      hat: [null, null, 'cap-knit'],
      over: [null, 'smock', null],
      top: ['shirt-work', 'shirt-striped', 'jersey', 'blouse'],
      legs: ['trousers-rolled', 'breeches', 'shorts'],
      belt: [null],
      back: [null],
      'right-hand': [null, 'lantern'],
      'left-hand': [null],
      hands: [null],
      'left-leg': [null],
    },
    palettes: ['market-morning', 'low-tide', 'deep-glow'],
  },
]

const at = (values: Record<string, number>): Archetype['sliders'] =>
  Object.fromEntries(Object.entries(values).map(([id, v]) => [id, [v, 0.14]]))

/** What tells faces apart, as the study of them found. */
const FACES: Archetype[] = [
  {
    id: 'bluff',
    name: 'Bluff',
    sliders: at({
      'face-width': 0.8,
      'face-length': -0.5,
      cheeks: 0.9,
      'nose-bulb': 1,
      'nose-width': 0.8,
      'eye-size': -0.3,
    }),
  },
  {
    id: 'hatchet',
    name: 'Hatchet',
    sliders: at({
      'face-width': -0.9,
      'face-length': 0.8,
      cheeks: -0.6,
      'nose-length': 0.9,
      'nose-tip': -0.7,
      bridge: 0.9,
      lips: -0.7,
      'eye-space': -0.5,
    }),
  },
  {
    id: 'anvil',
    name: 'Anvil',
    sliders: at({
      jaw: 0.9,
      chin: 0.8,
      brow: 0.9,
      'skull-taper': -0.4,
      'nose-width': 0.7,
      mouth: 0.6,
      'eye-size': -0.4,
    }),
  },
  {
    id: 'doe',
    name: 'Doe',
    sliders: at({
      jaw: -0.8,
      'eye-size': 0.8,
      lips: 0.8,
      'nose-length': -0.6,
      'nose-tip': 0.5,
      brow: -0.7,
      'eye-tilt': 0.4,
    }),
  },
  {
    id: 'pear',
    name: 'Pear',
    sliders: at({ jowl: 0.8, cheeks: 0.7, 'skull-taper': -0.9, jaw: 0.6, 'nose-bulb': 0.6, 'brow-height': 0.5 }),
  },
  {
    id: 'fox',
    name: 'Fox',
    sliders: at({
      'face-width': -0.4,
      jaw: -0.6,
      'eye-tilt': 0.9,
      'nose-tip': 0.7,
      'nose-length': 0.4,
      mouth: 0.7,
      'skull-taper': 0.6,
      chin: 0.6,
    }),
  },
  {
    id: 'moon',
    name: 'Moon',
    sliders: at({
      'face-width': 0.5,
      cheeks: 0.6,
      'face-length': -0.3,
      chin: -0.5,
      nose: -0.5,
      'eye-space': 0.7,
      forehead: 0.6,
      'mouth-height': 0.3,
    }),
  },
]

export const HUMAN_ARCHETYPES: Sets = [
  { id: 'people', name: 'People', archetypes: PEOPLE },
  { id: 'faces', name: 'Faces', blends: true, archetypes: FACES },
]
