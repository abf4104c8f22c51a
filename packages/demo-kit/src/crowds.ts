import { MIX_FORMAT, partReference, type Kit, type Mix, type MixKind } from '@idle-tinker/core'

/* The crowds of Lantern Tide. */

const none = (share: number) => ({ part: null, share })
const some = (share: number, ...parts: string[]) => parts.map((part) => ({ part, share }))

/** People of the quay; what they wear differs from crowd to crowd. */
function folkMix(
  kit: Kit,
  id: string,
  name: string,
  count: number,
  seed: number,
  palettes: MixKind['palettes'],
  slots: MixKind['slots'],
): Mix {
  return {
    format: MIX_FORMAT,
    version: 3,
    id,
    name,
    count,
    seed,
    triangles: 900,
    kinds: [folkKind(kit, palettes, slots)],
  }
}

function folkKind(kit: Kit, palettes: MixKind['palettes'], slots: MixKind['slots']): MixKind {
  return {
    id: 'human',
    share: 1,
    body: partReference(kit, 'human'),
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
        'hair-plaits',
        'hair-loose',
        'hair-topknot',
        'hair-ropes',
      ),
      beard: [none(7), ...some(1, 'beard-full', 'beard-short', 'beard-moustache', 'beard-sides', 'beard-forked')],
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

const TIDE_PALETTES = [
  { id: 'river-brown', share: 3 },
  { id: 'deep-glow', share: 1 },
  { id: 'salt-wedding', share: 1 },
  { id: 'rusted-tin', share: 1 },
]

const otterns = (tide: Kit): MixKind => ({
  id: 'otterns',
  share: 5,
  body: partReference(tide, 'ottern'),
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
  palettes: TIDE_PALETTES,
  atMostOnce: [],
})

const lampstriders = (tide: Kit): MixKind => ({
  id: 'lampstriders',
  share: 2,
  body: partReference(tide, 'lampstrider'),
  slots: {
    lure: [none(2), ...some(2, 'lure-lantern'), ...some(1, 'lure-beads', 'lure-leaf')],
    eyes: some(1, 'eyes-wader-round', 'eyes-wader-keen', 'eyes-wader-mild'),
    horns: [none(3), ...some(1, 'crest-blades', 'antlers-coral')],
    neck: [none(1), ...some(1, 'scarf-wader', 'collar-bell', 'frill-wader')],
    back: [none(1), ...some(1, 'saddle', 'net-wader', 'plates', 'barnacles-wader')],
    bag: [none(2), ...some(1, 'panniers', 'floats-wader')],
    legs: [none(2), ...some(1, 'leg-wraps', 'leg-fins')],
    tail: [none(2), ...some(1, 'tail-fan', 'tail-rings-wader')],
  },
  sliders: {
    stature: [-0.8, 0.8],
    girth: [-0.7, 0.9],
    legs: [-0.7, 0.9],
    haunches: [-0.5, 0.9],
    keel: [-0.6, 0.9],
    back: [-0.4, 0.8],
    'neck-length': [-0.8, 0.9],
    'neck-curve': [-0.4, 0.8],
    head: [-0.6, 0.6],
    beak: [-0.8, 0.9],
    'beak-bend': [-0.5, 0.8],
    skull: [-0.6, 0.8],
    'tail-length': [-0.5, 0.9],
  },
  palettes: TIDE_PALETTES,
  atMostOnce: [],
})

const gulpers = (tide: Kit): MixKind => ({
  id: 'gulpers',
  share: 3,
  body: partReference(tide, 'gulper'),
  slots: {
    lure: [none(5), ...some(1, 'lure-beads', 'lure-leaf')],
    eyes: [...some(3, 'eyes-pods'), ...some(1, 'eyes-five', 'eyes-drowsy')],
    teeth: some(1, 'teeth-needles', 'teeth-pegs', 'teeth-tusks'),
    horns: [none(3), ...some(1, 'coral-gulper', 'crest-fin', 'hat-bucket')],
    fins: [none(2), ...some(1, 'cheek-fins', 'kelp-beard')],
    back: [none(1), ...some(1, 'spikes', 'shell-back', 'barnacles-gulper', 'net-gulper')],
    bag: [none(3), ...some(1, 'satchel-gulper', 'floats-gulper')],
    legs: [none(3), ...some(1, 'leg-bands')],
  },
  sliders: {
    stature: [-0.9, 0.8],
    girth: [-0.7, 0.8],
    height: [-0.6, 0.8],
    brow: [-0.5, 0.8],
    gape: [-0.8, 0.7],
    'mouth-width': [-0.5, 0.8],
    lips: [-0.5, 0.9],
    jaw: [-0.5, 0.9],
    belly: [-0.3, 0.6],
    hump: [-0.4, 0.9],
    rump: [-0.4, 0.9],
    thighs: [-0.5, 0.9],
    'hind-legs': [-0.5, 0.6],
  },
  palettes: TIDE_PALETTES,
  atMostOnce: ['hat-bucket'],
})

/** All of them. */
export function crowds(folk: Kit, tide: Kit): Mix[] {
  return [
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
          ...some(1, 'hat-souwester', 'headscarf', 'hat-brimmed', 'hat-tall', 'hat-straw', 'bandana'),
        ],
        top: some(1, 'shirt-work', 'shirt-rolled', 'jersey', 'shirt-striped', 'shirt-sleeveless', 'rollneck'),
        over: [none(4), ...some(1, 'jacket-short', 'waistcoat', 'smock', 'coat-oilskin', 'apron-net')],
        legs: some(1, 'trousers', 'trousers-rolled', 'breeches', 'waders', 'overalls'),
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
        top: some(1, 'shirt-work', 'bodice', 'jersey', 'blouse', 'shirt-ruffled', 'dress-gala'),
        over: [none(2), ...some(1, 'coat-quay', 'shawl', 'waistcoat', 'jacket-short', 'tailcoat', 'cape-watch')],
        legs: some(1, 'trousers', 'breeches'),
        feet: some(1, 'shoes-buckled', 'boots-ankle'),
        'right-hand': [none(2), ...some(1, 'lantern')],
        'left-hand': [none(6), ...some(1, 'mug', 'fish')],
      },
    ),
    {
      format: MIX_FORMAT,
      version: 3,
      id: 'tide-folk-arriving',
      name: 'Tide folk arriving',
      count: 80,
      seed: 4,
      triangles: 900,
      kinds: [otterns(tide), lampstriders(tide), gulpers(tide)],
    },
  ]
}
