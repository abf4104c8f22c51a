import type { Stage } from '../stage/Stage'

/** The stage one works on, while it is on the page: for what reaches into it from the trays. */
export const stageHere = shallowRef<Stage | null>(null)
