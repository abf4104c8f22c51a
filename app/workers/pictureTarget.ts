import { newTarget } from '@idle-tinker/core'

/** What pictures are built for: no limit of theirs is anybody's. */
export const PICTURES = newTarget('picture', 'Pictures')
