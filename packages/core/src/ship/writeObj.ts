import type { Read } from '../base/problem.ts'
import type { Mesh } from '../mesh/Mesh.ts'
import type { Convention } from '../recipe/target.ts'
import type { Leaving } from './conform.ts'
import { axesClash, conventionAxes, type Converted } from './conventionAxes.ts'
import { atlasPng } from './writeFigure.ts'

/**
 * Writes a figure as it stands as Wavefront OBJ: a file for each level of detail, one MTL, and the atlas as PNG, in the
 * unit and the axes of a convention. The format holds no skeleton, no morphs, no clips and no vertex colors, so that the
 * shading of hollows is not in it. Same figure, same bytes.
 *
 * @param stem what files are called: letters, digits, - and _
 * @returns files by name
 */
export function writeObj(
  figure: Pick<Leaving, 'mesh' | 'lods' | 'atlas'>,
  stem: string,
  convention: Convention,
): Read<Map<string, Uint8Array>> {
  const axes = conventionAxes(convention)
  if (!axes) return { value: null, problems: [axesClash(convention)] }
  const files = new Map<string, Uint8Array>()
  const text = (name: string, lines: readonly string[]) =>
    files.set(name, new TextEncoder().encode(`${lines.join('\n')}\n`))
  for (const [level, mesh] of [figure.mesh, ...figure.lods].entries()) {
    const name = level === 0 ? stem : `${stem}-lod${level}`
    text(`${name}.obj`, [`mtllib ${stem}.mtl`, `o ${name}`, ...linesOf(mesh, axes)])
  }
  text(`${stem}.mtl`, [
    ...[`newmtl ${MATERIAL}`, 'Ka 0 0 0', 'Kd 1 1 1', 'Ks 0 0 0', 'd 1', 'illum 1', `map_Kd ${stem}.png`],
  ])
  files.set(`${stem}.png`, atlasPng(figure))
  return { value: files, problems: [] }
}

const MATERIAL = 'figure'

function linesOf(mesh: Mesh, axes: Converted): string[] {
  const points = new Rows('v')
  const uvs = new Rows('vt')
  const normals = new Rows('vn')
  const corners = Array.from(mesh.cornerPoints, (p, c) => {
    const at = [p * 3, c * 3] as const
    const { positions, normals: own } = mesh
    const v = points.add(axes.point(positions[at[0]]!, positions[at[0] + 1]!, positions[at[0] + 2]!), 6)
    const t = uvs.add([mesh.uvs[c * 2]!, axes.row(mesh.uvs[c * 2 + 1]!)], 6)
    const n = normals.add(axes.direction(own[at[1]]!, own[at[1] + 1]!, own[at[1] + 2]!), 4)
    return `${v}/${t}/${n}`
  })
  const faces: string[] = []
  for (let i = 0; i < mesh.indices.length; i += 3)
    faces.push(`f ${corners[mesh.indices[i]!]} ${corners[mesh.indices[i + 1]!]} ${corners[mesh.indices[i + 2]!]}`)
  return [...points.lines, ...uvs.lines, ...normals.lines, `usemtl ${MATERIAL}`, ...faces]
}

/** Lines of numbers, each once, counted from 1. */
class Rows {
  readonly lines: string[] = []
  private readonly places = new Map<string, number>()

  constructor(private readonly keyword: string) {}

  add(values: readonly number[], digits: number): number {
    // no "-0.0000"
    const line = `${this.keyword} ${values.map((v) => String(Number(v.toFixed(digits)) + 0)).join(' ')}`
    let place = this.places.get(line)
    if (place === undefined) this.places.set(line, (place = this.lines.push(line)))
    return place
  }
}
