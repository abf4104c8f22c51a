import { readTarget } from '@idle-tinker/core'
import { openStore } from './openStore'
import { useProject } from './project'

/** The target whose limits are being changed. */
export const useTarget = openStore('target', readTarget, (mine) => useProject().addNamed('target', mine))
