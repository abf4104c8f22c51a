import {
  bodyOf,
  clearPart,
  hasErrors,
  limbsWorn,
  partsFor,
  problem,
  readRecipe,
  referenceTo,
  rename,
  resolveRecipe,
  setExpression,
  setFace,
  setPart,
  setSliders,
  setSprings,
  shuffleAll,
  slotsFor,
  SPRING_RANGES,
  swingingChains,
  USUAL_SPRING,
  type Kit,
  type Problem,
  type Read,
  type Recipe,
  type SliderValue,
  type Spring,
} from '@idle-tinker/core'
import { readKitFolders, readText, writeWhole } from '../files.ts'
import type { Voice } from '../Voice.ts'

interface Common {
  out: string
  kits: string[]
}

export interface EditOptions extends Common {
  set: string[]
  part: string[]
  spring: string[]
  expression?: string
  name?: string
}

export interface ShuffleOptions extends Common {
  seed: string
  strength: string
}

type Edit = (recipe: Recipe, kits: ReadonlyMap<string, Kit>) => Read<Recipe>

/** Changes sliders, parts, what swings and the name of a figure, and writes it as a recipe. */
export function editRecipe(
  input: string,
  { set, part, spring, expression, name, ...options }: EditOptions,
  voice: Voice,
): Promise<number> {
  const steps: Edit[] = [
    // the face first: what is set one by one may change it
    ...(expression === undefined
      ? []
      : [(recipe: Recipe, kits: ReadonlyMap<string, Kit>) => withExpression(recipe, kits, expression)]),
    ...set.map(
      (text): Edit =>
        (recipe, kits) =>
          withSlider(recipe, kits, text),
    ),
    ...part.map(
      (text): Edit =>
        (recipe, kits) =>
          withPart(recipe, kits, text),
    ),
    // what swings may hang on a part
    ...spring.map(
      (text): Edit =>
        (recipe, kits) =>
          withSpring(recipe, kits, text),
    ),
    (recipe) => ({ value: name === undefined ? recipe : rename(recipe, name), problems: [] }),
  ]
  return change(input, options, steps, voice)
}

/** Shuffles a figure and writes it as a recipe. */
export function shuffleRecipe(input: string, options: ShuffleOptions, voice: Voice): Promise<number> {
  const shuffle: Edit = (recipe, kits) => {
    const [seed, strength] = [Number(options.seed), Number(options.strength)]
    if (!Number.isSafeInteger(seed)) return refused('seed', '--seed', 'A seed is a whole number.', 'Write --seed 7.')
    if (!(strength >= 0 && strength <= 1))
      return refused('strength', '--strength', 'A strength goes from 0 to 1.', 'Write --strength 0.5.')
    return { value: shuffleAll(recipe, kits, seed, strength), problems: [] }
  }
  return change(input, options, [shuffle], voice)
}

/** Reads a recipe, changes it step by step, and writes it; nothing is written unless all of it can be done. */
async function change(input: string, { out, kits: folders }: Common, edits: Edit[], voice: Voice): Promise<number> {
  const text = await readText(input)
  if (text.value === null) return voice.tell(text.problems)
  const read = readRecipe(text.value, input)
  if (!read.value) return voice.tell(read.problems)
  const { kits, problems } = await readKitFolders(folders)
  if (hasErrors(problems)) return voice.tell(problems)
  let recipe = read.value
  for (const edit of edits) {
    const next = edit(recipe, kits)
    if (!next.value) return voice.tell(next.problems)
    recipe = next.value
  }
  const resolved = resolveRecipe(recipe, kits)
  const code = voice.tell([...problems, ...resolved.problems])
  if (code !== 0) return code
  const written = voice.tell(await writeWhole(out, new TextEncoder().encode(`${JSON.stringify(recipe, null, 2)}\n`)))
  if (written === 0) voice.say(`${out}: ${recipe.name}, ${recipe.parts.length} parts`, { file: out, recipe })
  return written
}

/** “shoulders=0.4”, or “shoulders=0.4,0.1” for the figure's left and right. */
function withSlider(recipe: Recipe, kits: ReadonlyMap<string, Kit>, text: string): Read<Recipe> {
  const [id, given] = halves(text)
  const sliders = bodyOf(kits, recipe.body)?.sliders ?? []
  const slider = sliders.find((s) => s.id === id)
  if (!slider) return unknown('slider', id, sliders)
  const values = given.split(',').map(numberIn)
  const odd = values.length > 2 || values.some((v) => !(v >= slider.min && v <= slider.max))
  if (odd)
    return refused(
      'slider-value',
      text,
      `“${given}” is no value of it.`,
      `It goes from ${slider.min} to ${slider.max}; two values with a comma are its left and right.`,
    )
  const value: SliderValue = values.length === 2 ? [values[0]!, values[1]!] : values[0]!
  return { value: setSliders(recipe, { [id]: value }, [slider]), problems: [] }
}

/** “glad”, or “glad=0.6” for less of it; “rest” for the face at rest. */
function withExpression(recipe: Recipe, kits: ReadonlyMap<string, Kit>, text: string): Read<Recipe> {
  const [id, given] = halves(text)
  const body = bodyOf(kits, recipe.body)
  const expressions = body?.expressions ?? []
  if (body && id === 'rest') return { value: setFace(recipe, body, []), problems: [] }
  if (!body || !expressions.some((e) => e.id === id)) return unknown('expression', id, expressions)
  const strength = given === '' ? 1 : Number(given)
  if (!(strength >= 0 && strength <= 1))
    return refused('strength', text, `“${given}” is no strength.`, 'It goes from 0 to 1.')
  return { value: setExpression(recipe, body, id, strength), problems: [] }
}

/** “hat=cap-knit”, or “hat=” to take off what is there. */
function withPart(recipe: Recipe, kits: ReadonlyMap<string, Kit>, text: string): Read<Recipe> {
  const [slot, id] = halves(text)
  const slots = slotsFor(kits, recipe.body)
  if (!slots.some((s) => s.id === slot)) return unknown('slot', slot, slots)
  if (id === '') return { value: clearPart(recipe, slot), problems: [] }
  const parts = partsFor(kits, recipe.body, slot)
  const part = parts.find(({ kit, def }) => def.id === id || `${kit}/${def.id}` === id)
  if (!part)
    return unknown(
      'part',
      id,
      parts.map((p) => p.def),
    )
  return { value: setPart(recipe, slot, referenceTo(kits, { kit: part.kit, id: part.def.id })), problems: [] }
}

/** “tail” swings as is usual, “tail=0.5,0.4,0.1” with a stiffness, a drag and a gravity, “tail=none” no more. */
function withSpring(recipe: Recipe, kits: ReadonlyMap<string, Kit>, text: string): Read<Recipe> {
  const [id, given] = halves(text)
  const { value, problems } = resolveRecipe(recipe, kits)
  if (!value) return { value, problems }
  const chains = swingingChains(limbsWorn(value))
  const chain = chains.find((c) => c.id === id || c.limbs.includes(id))
  if (!chain) return unknown('chain', id, chains)
  const swinging = chain.id === id ? chain.limbs : [id]
  if (given === 'none') return { value: setSprings(recipe, swinging, null), problems: [] }
  const keys = Object.keys(SPRING_RANGES) as (keyof Spring)[]
  const numbers = given === '' ? keys.map((key) => USUAL_SPRING[key]) : given.split(',').map(numberIn)
  const ranges = keys.map((key) => SPRING_RANGES[key])
  const odd = numbers.length !== keys.length || !ranges.every(([a, , z], i) => numbers[i]! >= a && numbers[i]! <= z)
  if (odd)
    return refused(
      'spring-value',
      text,
      `“${given}” does not say how it swings.`,
      `Write ${keys.map((key, i) => `a ${key} from ${ranges[i]![0]} to ${ranges[i]![2]}`).join(', ')}; or none.`,
    )
  const spring = Object.fromEntries(keys.map((key, i) => [key, numbers[i]!])) as unknown as Spring
  return { value: setSprings(recipe, swinging, spring), problems: [] }
}

const numberIn = (text: string): number => (text.trim() === '' ? NaN : Number(text))

function halves(text: string): [before: string, after: string] {
  const at = text.indexOf('=')
  return at < 0 ? [text, ''] : [text.slice(0, at), text.slice(at + 1)]
}

function refused(code: string, where: string, message: string, remedy: string): { value: null; problems: Problem[] } {
  return { value: null, problems: [problem(code, where, message, remedy)] }
}

function unknown(what: string, id: string, known: readonly { id: string }[]): { value: null; problems: Problem[] } {
  const names = known.map((k) => k.id).join(', ')
  return refused(
    `${what}-unknown`,
    id,
    `There is no ${what} “${id}”.`,
    names ? `There are: ${names}.` : 'Check the kits.',
  )
}
