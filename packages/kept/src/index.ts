export { KeptKits } from './KeptKits.ts'
