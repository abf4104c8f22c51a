import type { LookDef } from '@idle-tinker/core'

/* People of the quay, ready to start from: each one of an archetype, with a face of their own. */

interface Person extends Pick<LookDef, 'sliders' | 'colors' | 'parts' | 'face'> {
  kind: string
  features: string
}

const SKIN = ['#f0c39c', '#e3aa80', '#c98a5e', '#a56a43', '#7d4b30', '#5a3524'] as const

const look = (id: string, name: string, { kind, features, ...person }: Person): LookDef => ({
  ...{ id, name, body: 'human' },
  archetypes: [kind, features],
  ...person,
})

export const LOOKS: LookDef[] = [
  look('docker-bram', 'Docker', {
    kind: 'docker',
    features: 'anvil',
    parts: [
      'hair-cropped',
      'beard-short',
      'shirt-sleeveless',
      'overalls',
      'boots-sea',
      'mitts',
      'bandana',
      'rope-coil',
    ],
    sliders: { sex: 0.8, muscle: 0.85, build: 0.5, stature: 0.3, jaw: 0.7, brow: 0.6, neck: 0.4 },
    colors: { skin: SKIN[3], hair: '#2a1d18', brow: '#2a1d18', waders: '#56705f', scarf: '#c9463a' },
    face: ['grim', 0.4],
  }),
  look('net-mender', 'Net mender', {
    kind: 'net-mender',
    features: 'moon',
    parts: ['hair-plaits', 'brows-arched', 'shirt-rolled', 'skirt-work', 'apron-net', 'clogs', 'headscarf'],
    sliders: { sex: -0.75, heft: 0.3, years: 0.3, cheeks: 0.5, 'face-width': 0.4 },
    colors: { skin: SKIN[0], hair: '#b9733a', skirt: '#5b4d3c', scarf: '#d98a5f' },
  }),
  look('clerk-customs', 'Customs clerk', {
    kind: 'clerk',
    features: 'hatchet',
    parts: ['hair-swept', 'beard-moustache', 'shirt-ruffled', 'breeches', 'tailcoat', 'shoes-buckled', 'ledger'],
    sliders: { sex: 0.5, build: -0.6, muscle: -0.5, 'face-width': -0.7, 'nose-length': 0.7, stature: 0.4 },
    colors: { skin: SKIN[1], hair: '#4a2c1b', coat: '#33406b', 'coat-trim': '#d9a441', trousers: '#8d8b7c' },
    face: ['smug', 0.5],
  }),
  look('old-salt', 'Old salt', {
    kind: 'elder-man',
    features: 'bluff',
    parts: [
      'hair-fringe',
      'beard-forked',
      'brows-bushy',
      'eyes-narrow',
      'rollneck',
      'trousers-wide',
      'jacket-short',
      'boots-ankle',
      'cap-mate',
    ],
    sliders: { sex: 0.7, years: 0.85, stoop: 0.25, 'nose-bulb': 0.8, cheeks: 0.6 },
    colors: { skin: SKIN[1], hair: '#e4e0d6', brow: '#b8b2a8', knit: '#3f4a4c', coat: '#23324a' },
  }),
  look('grandmother', 'Grandmother', {
    kind: 'elder-woman',
    features: 'pear',
    parts: ['hair-bun', 'eyes-sleepy', 'blouse', 'skirt-work', 'shawl', 'slippers'],
    sliders: { sex: -0.8, years: 0.9, stature: -0.6, heft: 0.45, stoop: 0.35, jowl: 0.6 },
    colors: { skin: SKIN[2], hair: '#e4e0d6', brow: '#b8b2a8', shawl: '#7a4f6a', skirt: '#49454a' },
    face: ['glad', 0.5],
  }),
  look('fishwife', 'Fishwife', {
    kind: 'fishwife',
    features: 'bluff',
    parts: ['hair-bun', 'brows-stern', 'dress-market', 'boots-ankle', 'kerchief', 'fish'],
    sliders: { sex: -0.8, heft: 0.7, build: 0.4, muscle: 0.3, cheeks: 0.5, bust: 0.3 },
    colors: { skin: SKIN[1], hair: '#8a4a24', bodice: '#3f7f72', skirt: '#d9763f' },
    face: ['shouting', 0.6],
  }),
  look('ships-mate', 'Ship’s mate', {
    kind: 'mate',
    features: 'fox',
    parts: ['hair-ropes', 'eyes-bright', 'brows-arched', 'shirt-striped', 'trousers-wide', 'boots-ankle', 'sash'],
    sliders: { sex: -0.6, muscle: 0.4, heft: -0.3, stature: 0.3, 'eye-tilt': 0.6 },
    colors: { skin: SKIN[5], hair: '#2a1d18', brow: '#2a1d18', knit: '#3f7f96', scarf: '#e8c13f' },
    face: ['glad', 0.7],
  }),
  look('harbor-pilot', 'Harbor pilot', {
    kind: 'mate',
    features: 'anvil',
    parts: ['hair-swept', 'beard-sides', 'rollneck', 'trousers', 'greatcoat', 'boots-thigh', 'gauntlets', 'cap-mate'],
    sliders: { sex: 0.7, muscle: 0.3, stature: 0.6, years: 0.3, jaw: 0.5 },
    colors: { skin: SKIN[2], hair: '#9b9690', brow: '#8d8880', coat: '#3b3a3c', 'coat-trim': '#6e5638' },
  }),
  look('lamplighter', 'Lamplighter', {
    kind: 'clerk',
    features: 'hatchet',
    parts: ['hair-tousled', 'shirt-work', 'trousers', 'cape-watch', 'boots-ankle', 'hat-tall', 'lantern'],
    sliders: { sex: 0.4, stature: 0.8, build: -0.6, legs: 0.4, nose: 0.6 },
    colors: { skin: SKIN[3], hair: '#2a1d18', coat: '#472f5c', 'coat-trim': '#d9a441', felt: '#2d2f4a' },
  }),
  look('watch', 'Night watch', {
    kind: 'docker',
    features: 'pear',
    parts: ['hair-cropped', 'beard-full', 'shirt-work', 'trousers', 'cape-hooded', 'boots-sea', 'hood', 'boathook'],
    sliders: { sex: 0.8, heft: 0.5, build: 0.4, muscle: 0.4, years: 0.3 },
    colors: { skin: SKIN[1], hair: '#4a2c1b', smock: '#3a4f46', 'smock-trim': '#8a7a4a' },
    face: ['weary', 0.5],
  }),
  look('strand-piper', 'Strand piper', {
    kind: 'youth',
    features: 'fox',
    parts: ['hair-loose', 'shirt-wrapped', 'kilt', 'sandals', 'belt-rope'],
    sliders: { sex: 0.1, years: -0.35, build: -0.3, 'eye-tilt': 0.5 },
    colors: { skin: SKIN[2], hair: '#8a4a24', smock: '#8aa8a0', shawl: '#a5483d' },
    face: ['whistling', 0.8],
  }),
  look('tide-bride', 'Salt bride', {
    kind: 'youth',
    features: 'doe',
    parts: ['hair-loose', 'eyes-bright', 'brows-arched', 'dress-gala', 'slippers', 'wreath'],
    sliders: { sex: -0.8, years: -0.2, 'eye-size': 0.6, lips: 0.5, bust: 0.2, waist: -0.3 },
    colors: {
      skin: SKIN[4],
      hair: '#2a1d18',
      brow: '#2a1d18',
      skirt: '#f0e6d8',
      shawl: '#e8d8b8',
      'skirt-trim': '#c98a7a',
      'shawl-trim': '#c9a86a',
      paint: '#c98a7a',
    },
    face: ['glad', 0.6],
  }),
  look('market-gardener', 'Market gardener', {
    kind: 'net-mender',
    features: 'bluff',
    parts: ['hair-braid', 'blouse', 'overalls', 'clogs', 'hat-straw', 'basket'],
    sliders: { sex: -0.5, heft: 0.2, muscle: 0.2, cheeks: 0.4 },
    colors: { skin: SKIN[0], hair: '#d9a850', waders: '#6f7f9a', 'trousers-trim': '#8f9ab5' },
  }),
  look('retired-raider', 'Retired raider', {
    kind: 'elder-man',
    features: 'anvil',
    parts: [
      'hair-topknot',
      'beard-plaited',
      'brows-bushy',
      'shirt-wrapped',
      'trousers',
      'boots-sea',
      'belt-wide',
      'hook-left',
    ],
    sliders: { sex: 0.9, years: 0.6, muscle: 0.6, build: 0.6, jaw: 0.6 },
    colors: { skin: SKIN[2], hair: '#b9733a', brow: '#6a3a20', smock: '#5c3a33', 'smock-trim': '#c9a15d' },
    face: ['angry', 0.4],
  }),
  look('cabin-child', 'Cabin child', {
    kind: 'child',
    features: 'moon',
    parts: ['hair-tousled', 'eyes-bright', 'shirt-striped', 'shorts', 'sandals', 'kerchief'],
    sliders: { years: -0.85, cheeks: 0.4 },
    colors: { skin: SKIN[3], hair: '#2a1d18', brow: '#2a1d18', knit: '#c9463a', scarf: '#3f9a8a' },
    face: ['glad', 0.8],
  }),
  look('goods-porter', 'Goods porter', {
    kind: 'docker',
    features: 'bluff',
    parts: ['hair-curls', 'beard-chin', 'jersey', 'trousers-rolled', 'waistcoat', 'clogs', 'cap-flat', 'net-bundle'],
    sliders: { sex: 0.7, heft: 0.6, muscle: 0.5, build: 0.6, stature: -0.3, belly: 0.4 },
    colors: { skin: SKIN[4], hair: '#2a1d18', brow: '#2a1d18', knit: '#5c5a52', waistcoat: '#6a4c33' },
  }),
]
