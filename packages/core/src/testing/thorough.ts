/** Whether tests may take all the time they want (`npm run test:long`): every sample there is, instead of some of them. */
const THOROUGH = process.env.TINKER_TESTS === 'long'

/** One in so many of a list, from the first on; all of them in a long run. */
export function oneIn<T>(n: number, list: readonly T[]): readonly T[] {
  return THOROUGH ? list : list.filter((_, i) => i % n === 0)
}

/** So many samples usually, and in a long run. */
export const samples = (usual: number, long: number) => (THOROUGH ? long : usual)
