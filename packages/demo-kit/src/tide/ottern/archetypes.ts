import type { BodyDef } from '@idle-tinker/core'

/* Who comes up the river with the tide, and the heads they have. */

type Sets = NonNullable<BodyDef['archetypes']>
type Archetype = Sets[number]['archetypes'][number]

const OTTERNS: Archetype[] = [
  {
    id: 'ferrier',
    name: 'Ferrier',
    sliders: {
      muscle: [0.5, 0.25],
      girth: [0.15, 0.3],
      shoulders: [0.5, 0.25],
      stature: [0.1, 0.35],
      years: [0.1, 0.15],
      'arm-thick': [0.3, 0.25],
      'tail-width': [0.4, 0.25],
    },
    parts: {
      horns: [null, null, 'cap-shell'],
      neck: ['scarf-striped', null],
      vest: [null, 'vest-trader'],
      bag: ['belt-floats', 'belt-floats', null],
      'left-hand': [null],
      'right-hand': [null, null, 'spear'],
    },
  },
  {
    id: 'trader',
    name: 'Shell trader',
    sliders: {
      girth: [0.7, 0.25],
      belly: [0.5, 0.3],
      muscle: [-0.4, 0.2],
      stature: [-0.2, 0.3],
      years: [0.2, 0.2],
      cheeks: [0.4, 0.25],
      'tail-girth': [0.3, 0.25],
    },
    parts: {
      horns: [null, 'cap-shell'],
      neck: ['scarf-striped', 'frill', null],
      vest: ['vest-trader'],
      bag: ['satchel'],
      back: [null],
      'left-hand': ['pearl', null],
      'right-hand': [null],
      tail: [null, 'tail-rings', 'tail-rings'],
      eyes: ['eyes-sly', 'eyes-round'],
    },
  },
  {
    id: 'reed-guard',
    name: 'Reed guard',
    sliders: {
      stature: [0.6, 0.25],
      girth: [-0.3, 0.25],
      muscle: [0.35, 0.2],
      'neck-length': [0.4, 0.25],
      legs: [0.4, 0.25],
      years: [0, 0.12],
      brow: [0.3, 0.25],
    },
    parts: {
      horns: ['horns-coral', 'tufts', 'cap-shell'],
      vest: [null],
      bag: [null, 'belt-floats'],
      'right-hand': ['spear'],
      'left-hand': [null],
      eyes: ['eyes-sly', 'eyes-round'],
    },
  },
  {
    id: 'diver',
    name: 'Pearl diver',
    sliders: {
      girth: [-0.45, 0.25],
      stature: [-0.05, 0.3],
      muscle: [0, 0.25],
      years: [-0.1, 0.12],
      'hind-paws': [0.5, 0.2],
      'tail-length': [0.5, 0.25],
      'tail-width': [0.5, 0.3],
      chest: [0.3, 0.25],
    },
    parts: {
      horns: [null, 'tufts'],
      neck: [null],
      vest: [null],
      bag: ['satchel', null],
      tail: ['tail-fin', 'tail-fin', null],
      'left-hand': ['pearl', 'pearl', null],
      'right-hand': [null],
    },
  },
  {
    id: 'elder',
    name: 'Tide elder',
    sliders: {
      years: [0.85, 0.12],
      stature: [-0.2, 0.25],
      girth: [0.2, 0.35],
      muscle: [-0.3, 0.2],
      'muzzle-tip': [-0.4, 0.2],
    },
    parts: {
      horns: ['horns-coral', 'tufts', null],
      whiskers: ['whiskers-long'],
      neck: ['frill', 'scarf-striped'],
      back: ['barnacles', 'barnacles', null],
      'right-hand': [null, 'spear'],
      'left-hand': [null, 'pearl'],
      eyes: ['eyes-mild'],
    },
  },
  {
    id: 'pup',
    name: 'Pup',
    sliders: { years: [-0.85, 0.1], girth: [0.1, 0.25], muscle: [0, 0.1], arch: [0, 0.1], stature: [0, 0.2] },
    parts: {
      eyes: ['eyes-round', 'eyes-round', 'eyes-mild'],
      whiskers: ['whiskers-short'],
      horns: [null, null, 'tufts'],
      neck: [null, 'scarf-striped'],
      vest: [null],
      bag: [null],
      back: [null],
      tail: [null],
      'left-hand': [null],
      'right-hand': [null],
    },
  },
]

const at = (values: Record<string, number>): Archetype['sliders'] =>
  Object.fromEntries(Object.entries(values).map(([id, v]) => [id, [v, 0.14]]))

const HEADS: Archetype[] = [
  { id: 'river', name: 'River', sliders: at({ muzzle: 0.1, 'muzzle-width': 0.3, cheeks: 0.4, 'ear-height': -0.2 }) },
  {
    id: 'pike',
    name: 'Pike',
    sliders: at({ muzzle: 0.9, 'muzzle-width': -0.6, 'skull-width': -0.5, 'skull-height': -0.4, jaw: 0.3 }),
  },
  {
    id: 'boulder',
    name: 'Boulder',
    sliders: at({ 'skull-width': 0.8, 'muzzle-width': 0.8, muzzle: -0.5, brow: 0.7, jaw: 0.8, ears: -0.3 }),
  },
  {
    id: 'bell',
    name: 'Bell',
    sliders: at({ cheeks: 0.9, 'skull-height': 0.5, 'muzzle-height': 0.5, muzzle: -0.4, 'muzzle-tip': 0.6 }),
  },
  {
    id: 'bat',
    name: 'Bat',
    sliders: at({ ears: 0.8, 'ears-apart': -0.4, 'ear-height': 0.6, muzzle: -0.2, 'muzzle-tip': 0.4, cheeks: -0.3 }),
  },
]

export const OTTERN_ARCHETYPES: Sets = [
  { id: 'otterns', name: 'Otterns', archetypes: OTTERNS },
  { id: 'heads', name: 'Heads', blends: true, archetypes: HEADS },
]
