import type { BodyDef } from '@idle-tinker/core'

/* Which gulpers come with the tide. */

type Sets = NonNullable<BodyDef['archetypes']>

const KINDS: Sets[number]['archetypes'] = [
  {
    id: 'pond',
    name: 'From the ponds',
    sliders: {
      stature: [-0.3, 0.25],
      girth: [0, 0.3],
      height: [0.3, 0.3],
      gape: [-0.4, 0.3],
      'hind-legs': [0.4, 0.3],
      years: [0, 0.12],
    },
    parts: {
      teeth: ['teeth-pegs', 'teeth-needles'],
      eyes: ['eyes-pods', 'eyes-drowsy'],
      back: [null, 'barnacles-gulper'],
      horns: [null, 'crest-fin'],
      fins: ['cheek-fins', null],
      lure: [null],
      bag: [null],
      legs: [null],
    },
  },
  {
    id: 'deep',
    name: 'From the deep',
    sliders: {
      stature: [0.5, 0.3],
      girth: [0.5, 0.25],
      gape: [0.6, 0.25],
      'mouth-width': [0.5, 0.3],
      jaw: [0.5, 0.3],
      brow: [0.4, 0.3],
      years: [0.1, 0.12],
    },
    parts: {
      teeth: ['teeth-needles', 'teeth-needles', 'teeth-tusks'],
      eyes: ['eyes-five', 'eyes-pods'],
      back: ['spikes', 'shell-back'],
      horns: [null, 'coral-gulper'],
      fins: ['kelp-beard', null],
      lure: ['lure-leaf', 'lure-lantern', null],
      bag: [null],
      legs: [null],
    },
  },
  {
    id: 'hand',
    name: 'Dock hand',
    sliders: {
      stature: [0.1, 0.25],
      thighs: [0.5, 0.25],
      'fore-thick': [0.5, 0.25],
      belly: [0.2, 0.3],
      gape: [-0.2, 0.3],
      years: [0.1, 0.12],
    },
    parts: {
      teeth: ['teeth-pegs', 'teeth-tusks'],
      eyes: ['eyes-pods', 'eyes-drowsy'],
      horns: ['hat-bucket', null, null],
      back: ['net-gulper', null],
      bag: ['satchel-gulper', 'floats-gulper', 'satchel-gulper'],
      fins: [null],
      lure: [null],
      legs: ['leg-bands', null],
    },
  },
  {
    id: 'ancient',
    name: 'Ancient',
    sliders: { years: [0.85, 0.12], stature: [0.6, 0.25], belly: [0.5, 0.3], hump: [0.5, 0.3], lips: [0.4, 0.3] },
    parts: {
      teeth: ['teeth-tusks', 'teeth-pegs'],
      eyes: ['eyes-drowsy', 'eyes-five'],
      back: ['barnacles-gulper', 'shell-back'],
      horns: ['coral-gulper', null],
      fins: ['kelp-beard'],
      bag: [null],
    },
  },
  {
    id: 'froglet',
    name: 'Froglet',
    sliders: { years: [-0.85, 0.1], stature: [0, 0.2], girth: [0, 0.2], gape: [-0.3, 0.25] },
    parts: {
      teeth: ['teeth-pegs'],
      eyes: ['eyes-pods'],
      horns: [null, null, 'crest-fin'],
      back: [null],
      bag: [null],
      fins: [null, 'cheek-fins'],
      lure: [null],
      legs: [null],
    },
  },
]

export const GULPER_ARCHETYPES: Sets = [{ id: 'kinds', name: 'Kinds', archetypes: KINDS }]
