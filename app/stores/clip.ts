import { readClip } from '@idle-tinker/core'
import { openStore } from './openStore'
import { useProject } from './project'

/** The clip of one's own that is being changed. */
export const useClip = openStore('clip', readClip, (mine) => useProject().add('clip', mine))
