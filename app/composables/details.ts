import type { DetailLevel } from '@idle-tinker/core'

/** How much skeleton a figure gets, in words. */
export const DETAILS: readonly { id: DetailLevel; name: string; words: string }[] = [
  { id: 'near', name: 'Near', words: 'Fingers, eyes and jaw move.' },
  { id: 'standard', name: 'Middle', words: 'Hands close as one, thumbs apart.' },
  { id: 'crowd', name: 'Crowd', words: 'Limbs, trunk, head, feet.' },
]
