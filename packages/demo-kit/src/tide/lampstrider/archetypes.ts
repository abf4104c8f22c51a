import type { BodyDef } from '@idle-tinker/core'

/* Which lampstriders come with the tide. */

type Sets = NonNullable<BodyDef['archetypes']>

const KINDS: Sets[number]['archetypes'] = [
  {
    id: 'drover',
    name: 'Led by a drover',
    sliders: {
      stature: [0.1, 0.25],
      girth: [0.35, 0.25],
      haunches: [0.4, 0.25],
      'leg-thick': [0.4, 0.25],
      legs: [-0.1, 0.3],
      keel: [0.3, 0.3],
      years: [0.1, 0.12],
    },
    parts: {
      back: ['saddle', 'saddle', 'net-wader'],
      bag: ['panniers', 'panniers', null],
      neck: ['collar-bell', 'scarf-wader', null],
      horns: ['hat-drover', null, null],
      legs: ['leg-wraps', null],
      tail: [null, 'tail-rings-wader'],
    },
  },
  {
    id: 'wild',
    name: 'Wild wader',
    sliders: {
      stature: [0.3, 0.35],
      girth: [-0.5, 0.25],
      legs: [0.5, 0.3],
      'neck-length': [0.4, 0.3],
      'neck-curve': [0.4, 0.35],
      beak: [0.4, 0.35],
      years: [0, 0.12],
    },
    parts: {
      back: [null, null, 'barnacles-wader', 'plates'],
      bag: [null],
      neck: [null, 'frill-wader'],
      horns: ['crest-blades', 'antlers-coral', null],
      legs: [null, 'leg-fins', 'leg-fins'],
      tail: ['tail-fan', null],
    },
  },
  {
    id: 'lamplighter',
    name: 'Light before the boats',
    sliders: {
      stature: [0.4, 0.25],
      'neck-length': [0.6, 0.25],
      'neck-curve': [0, 0.3],
      head: [-0.2, 0.25],
      legs: [0.3, 0.25],
      years: [0, 0.1],
    },
    parts: {
      lure: ['lure-lantern', 'lure-lantern', 'lure-beads'],
      horns: [null],
      back: [null, 'net-wader'],
      bag: ['floats-wader', null],
      neck: ['collar-bell', 'scarf-wader'],
      legs: ['leg-wraps', null],
    },
  },
  {
    id: 'old-one',
    name: 'Old one',
    sliders: {
      years: [0.85, 0.12],
      stature: [0.2, 0.3],
      knees: [0.5, 0.25],
      'beak-bend': [0.5, 0.3],
      girth: [-0.2, 0.3],
      'neck-curve': [0.5, 0.25],
    },
    parts: {
      back: ['barnacles-wader', 'plates'],
      lure: ['lure-leaf', 'lure-lantern', null],
      bag: [null],
      horns: ['antlers-coral', 'crest-blades', null],
      eyes: ['eyes-wader-mild'],
    },
  },
  {
    id: 'chick',
    name: 'Chick',
    sliders: { years: [-0.85, 0.1], stature: [0, 0.2], girth: [0.2, 0.3], 'neck-curve': [0, 0.15] },
    parts: {
      eyes: ['eyes-wader-round'],
      lure: ['lure-beads', null, null],
      horns: [null],
      back: [null],
      bag: [null],
      neck: [null, 'scarf-wader'],
      legs: [null],
      tail: [null],
    },
  },
]

export const LAMPSTRIDER_ARCHETYPES: Sets = [{ id: 'kinds', name: 'Kinds', archetypes: KINDS }]
