import { Builder, rigPack, surveyFigure, type Kit, type Pack, type Recipe, type Target } from '@idle-tinker/core'

/** A dressed figure's triangles without their bones, split until there are at least so many. */
export function riggings(kits: ReadonlyMap<string, Kit>, recipe: Recipe, target: Target, least = 10_000) {
  const { mesh } = new Builder(kits).build(recipe, target).figure!
  let positions = [...mesh.positions]
  let triangles = Array.from(mesh.indices, (c) => mesh.cornerPoints[c]!)
  while (triangles.length / 3 < least) ({ positions, triangles } = split(positions, triangles))
  const found = {
    vertices: positions.length / 3,
    influences: 0,
    weightsOff: 0,
    normals: true,
    against: 0,
    scaled: false,
  }
  const pack: Pack = {
    joints: [],
    pieces: [
      {
        ...{ id: 'mesh', names: [], skin: null, found },
        positions: Float32Array.from(positions),
        triangles: Uint32Array.from(triangles),
        materials: [{ name: 'all', color: '#888888', picture: false }],
        materialOf: new Uint16Array(triangles.length / 3),
      },
    ],
  }
  const survey = surveyFigure(pack).value!
  return {
    triangles: triangles.length / 3,
    survey: () => surveyFigure(pack),
    weights: () => rigPack(survey),
  }
}

/** Every triangle as two, at its first edge. */
function split(positions: number[], triangles: number[]): { positions: number[]; triangles: number[] } {
  const out: number[] = []
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!]
    const middle = positions.length / 3
    for (let k = 0; k < 3; k++) positions.push((positions[a * 3 + k]! + positions[b * 3 + k]!) / 2)
    out.push(a, middle, c, middle, b, c)
  }
  return { positions, triangles: out }
}
