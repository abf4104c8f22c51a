import { readPose } from '@idle-tinker/core'
import { openStore } from './openStore'
import { useProject } from './project'

/** The pose of one's own that is being changed. */
export const usePose = openStore('pose', readPose, (mine) => useProject().add('pose', mine))
