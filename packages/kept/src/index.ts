export { KeptKits, type PackedKit } from './KeptKits.ts'
