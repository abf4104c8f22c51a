export { KeptKits, type FreshKit } from './KeptKits.ts'
