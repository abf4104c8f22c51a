export { showsThrough, type LayerOf, type Through } from './showsThrough.ts'
export { tryPairs, type Tried, type Worse } from './tryPairs.ts'
