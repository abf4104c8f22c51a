import {
  bodyOf,
  newPickBody,
  newPickColor,
  PICKS_FORMAT,
  withCodes,
  type Kit,
  type PickBody,
  type PickLook,
  type Picks,
} from '@idle-tinker/core'

/* What players of Lantern Tide may choose, in the sail loft where they dress before the tide. */

interface BodySpec {
  kit: string
  body: string
  name: string
  /** Slots nobody chooses from. */
  without: string[]
  /** Slots that are never empty, and what everybody begins with. */
  needed: string[]
  start: Record<string, string>
  /** Slider to how far it goes both ways. */
  sliders: Record<string, number>
  colors: string[]
  expressions: string[]
  covered: string[]
  earned: Record<string, string>
  looks: (Omit<PickLook, 'parts'> & { parts: Record<string, string | null> })[]
  rules: PickBody['rules']
  springs?: PickBody['springs']
}

const FOLK: BodySpec = {
  ...{ kit: 'saltwick-folk', body: 'human', name: 'Saltwick folk' },
  without: ['right-leg', 'other-head', 'other-left-hand', 'other-right-hand', 'tail', 'trims'],
  needed: ['top', 'legs', 'eyes', 'brows'],
  start: {
    ...{ hair: 'hair-tousled', eyes: 'eyes-open', brows: 'brows-straight', top: 'shirt-work' },
    ...{ legs: 'trousers', feet: 'boots-ankle', belt: 'belt-rope' },
  },
  sliders: {
    ...{ stature: 0.8, build: 0.8, shoulders: 0.7, belly: 0.8, bust: 0.7, hips: 0.6 },
    ...{ legs: 0.5, neck: 0.5, jaw: 0.8, nose: 0.8, cheeks: 0.6, ears: 0.8 },
  },
  colors: [
    ...[
      'skin',
      'hair',
      'brow',
      'iris',
      'shirt',
      'knit',
      'bodice',
      'coat',
      'coat-trim',
      'oilskin',
      'waistcoat',
      'smock',
    ],
    ...['shawl', 'trousers', 'skirt', 'waders', 'felt', 'hat-band', 'scarf'],
  ],
  expressions: ['glad', 'smug', 'winking', 'surprised', 'weary', 'grim', 'angry', 'sad'],
  covered: ['torso', 'hips'],
  earned: {
    greatcoat: 'first-winter',
    'dress-gala': 'lantern-ball',
    'hat-tall': 'lantern-ball',
    'peg-leg': 'lost-leg',
  },
  looks: [
    {
      ...{ id: 'pilot', name: 'Pilot' },
      parts: { hat: 'cap-mate', hair: 'hair-cropped', over: 'jacket-short', neck: 'scarf', feet: 'boots-sea' },
      colors: { coat: '#2f5d7a' },
    },
    {
      ...{ id: 'oyster-wife', name: 'Oyster wife', expression: 'glad' },
      parts: { hair: 'hair-bun', hat: 'headscarf', top: 'blouse', legs: 'skirt-work', over: 'shawl', belt: null },
      sliders: { bust: 0.5, hips: 0.5, belly: 0.3 },
    },
    {
      ...{ id: 'night-fisher', name: 'Night fisher' },
      parts: { hat: 'hat-souwester', over: 'coat-oilskin', beard: 'beard-full', 'right-hand': 'lantern' },
      sliders: { build: 0.5, nose: 0.5 },
    },
  ],
  rules: [{ kind: 'excludes', parts: ['hat-straw', 'coat-oilskin'] }],
}

const OTTERN: BodySpec = {
  ...{ kit: 'tide-creatures', body: 'ottern', name: 'Ottern' },
  without: ['growths', 'other-tail'],
  needed: ['eyes'],
  start: { eyes: 'eyes-round', whiskers: 'whiskers-long', neck: 'scarf-striped' },
  sliders: { stature: 0.7, girth: 0.8, legs: 0.5, head: 0.6, muzzle: 0.7, ears: 0.8, 'tail-length': 0.8 },
  colors: ['fur', 'belly', 'iris', 'scarf', 'scarf-stripe', 'vest', 'frill', 'coral', 'shell'],
  expressions: ['glad', 'sly', 'surprised', 'sad', 'angry', 'weary'],
  ...{ covered: [], earned: { 'antlers-coral': 'deep-friend' } },
  looks: [
    {
      ...{ id: 'trader', name: 'River trader', expression: 'sly' },
      parts: { vest: 'vest-trader', bag: 'satchel', 'right-hand': 'spear' },
    },
  ],
  rules: [],
  springs: { tail: { stiffness: 0.9, drag: 0.45, gravity: 0.1 } },
}

/** The demo's package of picks. */
export function sailLoft(kits: ReadonlyMap<string, Kit>): Picks {
  const bodies = [FOLK, OTTERN].map((spec) => pickBody(spec, kits))
  return withCodes({ format: PICKS_FORMAT, version: 1, id: 'sail-loft', name: 'The sail loft', icons: 96, bodies })
}

function pickBody(spec: BodySpec, kits: ReadonlyMap<string, Kit>): PickBody {
  const ref = { kit: spec.kit, id: spec.body }
  const def = bodyOf(kits, ref)!
  const all = newPickBody(kits, ref)
  return {
    ...{ ...all, name: spec.name },
    slots: all.slots
      .filter(({ slot }) => !spec.without.includes(slot))
      .map(({ slot, parts }) => ({
        slot,
        parts: parts.map(({ part }) => ({ part, ...(spec.earned[part] && { earned: spec.earned[part] }) })),
        ...{ start: spec.start[slot] ?? null, needed: spec.needed.includes(slot) },
      })),
    sliders: Object.entries(spec.sliders).map(([slider, most]) => {
      const { min, max } = def.sliders.find((s) => s.id === slider)!
      return { slider, min: Math.max(min, -most), max: Math.min(max, most), start: 0 }
    }),
    colors: Object.fromEntries(spec.colors.map((id) => [id, newPickColor(kits, ref, id)])),
    ...{ clips: ['idle', 'walk', 'run', 'wave', 'cheer'] },
    ...{ expressions: spec.expressions, rules: spec.rules, covered: spec.covered, looks: spec.looks },
    ...(spec.springs && { springs: spec.springs }),
  }
}
