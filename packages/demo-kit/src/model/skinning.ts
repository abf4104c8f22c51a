import { smoothstep } from './vector.ts'

/** Bone and share, for a point of a body. */
export type Skinning = [bone: string, weight: number][]

/** Shares along a chain of bones: each border blends over its own width. */
export function chain(
  u: number,
  first: string,
  borders: readonly (readonly [at: number, width: number, bone: string])[],
): Skinning {
  const shares: Skinning = [[first, 1]]
  for (const [at, width, bone] of borders) {
    const t = smoothstep(at - width, at + width, u)
    for (const s of shares) s[1] *= 1 - t
    shares.push([bone, t])
  }
  return shares.filter(([, w]) => w > 0.001)
}

export function mix(a: Skinning, b: Skinning, t: number): Skinning {
  return [...a.map(([n, w]): [string, number] => [n, w * (1 - t)]), ...b.map(([n, w]): [string, number] => [n, w * t])]
}
