import type { DetailLevel } from '@idle-tinker/core'

/** How much skeleton a figure gets, in words that hold for every body. */
export const DETAILS: readonly { id: DetailLevel; name: string; words: string }[] = [
  { id: 'near', name: 'Near', words: 'every bone there is' },
  { id: 'standard', name: 'Middle', words: 'fingers close as one, small bones rest' },
  { id: 'crowd', name: 'Crowd', words: 'limbs, trunk and head' },
]

/** "leftUpperArm" to "Left upper arm". */
export function boneWords(name: string): string {
  const split = name
    .replace(/([A-Z0-9]+)/g, ' $1')
    .toLowerCase()
    .trim()
  return split.charAt(0).toUpperCase() + split.slice(1)
}

const MOST_TOLD = 4
const SIDE = /^(left|right)(?=[A-Z])/
/** Which of a chain a bone is: by number, or as the VRM standard names those of hands. */
const JOINT = /(\d+|Metacarpal|Proximal|Intermediate|Distal)$/

/**
 * What a skeleton has to do without: the bones of a fuller one that it leaves out, both sides and all of a chain as one.
 *
 * @param digits bones of fingers and the like
 */
export function leftOut(full: readonly string[], kept: readonly string[], digits: ReadonlySet<string>): string {
  const here = new Set(kept)
  const gone = full.filter((name) => !here.has(name))
  if (gone.length === 0) return 'Every bone there is.'
  const fingers = full.some((name) => digits.has(name) && here.has(name)) ? 'single fingers' : 'fingers'
  const words = gone.map((name) =>
    digits.has(name) ? fingers : boneWords(name.replace(SIDE, '').replace(JOINT, '')).toLowerCase(),
  )
  const each = [...new Set(words)]
  const more = each.length - MOST_TOLD
  return `Leaves out ${each.slice(0, MOST_TOLD).join(', ')}${more > 0 ? ` and ${more} more` : ''}.`
}
