import { readPicks } from '@idle-tinker/core'
import { openStore } from './openStore'
import { useProject } from './project'

/** What players may choose, as it is being changed. */
export const usePicks = openStore('picks', readPicks, (mine) => useProject().addNamed('picks', mine))
