export { showsThrough, type LayerOf, type Through } from './showsThrough.ts'
export { Uncovered, type LeftOut, type Open } from './showsOpen.ts'
export { tryOnLooks, type Hole, type Tried, type Worse } from './tryOnLooks.ts'
