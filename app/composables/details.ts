import { boneWords, withoutSide, type ChainKind, type DetailLevel } from '@idle-tinker/core'

export { boneWords }

/** How much skeleton a figure gets, in words that hold for every body. */
export const DETAILS: readonly { id: DetailLevel; name: string; words: string }[] = [
  { id: 'full', name: 'Full', words: 'every bone, and more that twist limbs evenly' },
  { id: 'near', name: 'Near', words: 'every finger, faces' },
  { id: 'standard', name: 'Middle', words: 'fingers close as one, small bones rest' },
  { id: 'crowd', name: 'Crowd', words: 'limbs, trunk and head' },
  { id: 'far', name: 'Far', words: 'what can be told from afar' },
]

/** A chain, by its kind. */
export const CHAIN_NAMES: Record<ChainKind, string> = {
  ...{ neck: 'a neck', tail: 'a tail', ear: 'an ear', wing: 'a wing', fin: 'a fin', stalk: 'a stalk' },
  ...{ hair: 'hair', cloth: 'hanging cloth' },
}

const MOST_TOLD = 4
/** Which of a chain a bone is: by number, or as the VRM standard names those of hands. */
const JOINT = /(\d+|Metacarpal|Proximal|Intermediate|Distal)$/
const TWIST = /Twist$/

/**
 * What a skeleton has to do without: the bones of a fuller one that it leaves out, both sides and all of a chain as one.
 *
 * @param digits bones of fingers and the like, a list each
 */
export function leftOut(
  full: readonly string[],
  kept: readonly string[],
  digits: readonly (readonly string[])[],
): string {
  const here = new Set(kept)
  const gone = full.filter((name) => !here.has(name))
  // what is seen least is told last
  gone.sort((a, b) => Number(TWIST.test(a)) - Number(TWIST.test(b)))
  if (gone.length === 0) return 'Every bone there is.'
  const fingers = fingersOf(full, here, digits)
  const stemOf = (name: string) => withoutSide(name).replace(JOINT, '')
  const stay = new Set(kept.map(stemOf))
  const inDigits = new Set(digits.flat())
  const words = gone.map((name) => {
    if (inDigits.has(name)) return fingers
    if (TWIST.test(name)) return 'even twists'
    const own = boneWords(stemOf(name)).toLowerCase()
    return stay.has(stemOf(name)) && JOINT.test(name) ? `end of the ${own}` : own
  })
  const each = [...new Set(words)]
  // one more is told as soon as counted
  const told = each.length === MOST_TOLD + 1 ? each.length : MOST_TOLD
  const more = each.length - told
  return `Leaves out ${each.slice(0, told).join(', ')}${more > 0 ? ` and ${more} more` : ''}.`
}

/** What is left out of fingers: their tips, some of them, or all. */
function fingersOf(full: readonly string[], here: ReadonlySet<string>, digits: readonly (readonly string[])[]): string {
  const there = new Set(full)
  const own = digits.filter((d) => d.some((bone) => there.has(bone)))
  const bent = own.filter((d) => d.some((bone) => here.has(bone)))
  if (bent.length === 0) return 'fingers'
  return bent.length === own.length ? 'finger tips' : 'single fingers'
}
