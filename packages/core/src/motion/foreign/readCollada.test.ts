import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { Builder } from '../../build.ts'
import { createWorldPose, solveForward } from '../../rig/Pose.ts'
import { clipsOf } from '../../ship/clips.ts'
import { writeCollada, type ColladaOptions } from '../../testing/collada.ts'
import { demoKit, dressed, TARGETS } from '../../testing/demoKits.ts'
import { poseAt } from '../Clip.ts'
import { matchMotion } from './matchMotion.ts'
import { placeJoints } from './ForeignMotion.ts'
import { readCollada } from './readCollada.ts'
import { readMotion } from './readMotion.ts'

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
const recipe = dressed(folk, 'human', [])
const { skeleton } = new Builder(kits).build(
  recipe,
  TARGETS.find((t) => t.id === 'near')!,
).figure!
const clip = clipsOf({ skeleton, mesh: new Builder(kits).build(recipe, TARGETS[0]!).figure!.mesh }, kits, recipe, (c) => c.id === 'walk')[0]! // prettier-ignore
const WAYS: Record<string, ColladaOptions> = {
  'by matrices': {},
  'by matrices, Z up, centimetres': { up: 'Z_UP', unit: 100 },
  'by matrices, X up': { up: 'X_UP' },
  'by a move and three turns': { steps: 'turns' },
  'by a move and three turns, Z up, inches': { steps: 'turns', up: 'Z_UP', unit: 39.37 },
}
const text = writeCollada(clip, skeleton)
const codeOf = (bad: string) => readCollada(bad, 'bad').problems.map((p) => p.code)

describe('a COLLADA file', () => {
  it.each(Object.entries(WAYS))('has its joints where they were written: %s', async (_, how) => {
    const read = await readMotion(new TextEncoder().encode(writeCollada(clip, skeleton, how)), 'walk.dae')
    expect(read.problems).toEqual([])
    const motion = read.value![0]!
    expect(motion).toMatchObject({ name: 'walk', up: '+y' })
    const out = { at: new Float32Array(motion.joints.length * 3), turns: new Float32Array(motion.joints.length * 4) }
    const world = createWorldPose(skeleton.bones)
    const unit = how.unit ?? 1
    for (const frame of [0, 16, 40]) {
      placeJoints(motion, frame, out)
      solveForward(skeleton.bones, poseAt(clip, frame * motion.step), world)
      for (const [j, { name }] of motion.joints.entries()) {
        const b = skeleton.bones.findIndex((bone) => bone.name === name)
        const place = new Vector3().fromArray(out.at, j * 3).divideScalar(unit)
        // seven digits; between keys, of which there are thirty a second, a turn is no line
        expect(place.distanceTo(new Vector3().fromArray(world.joints, b * 3)), `${name} at ${frame}`).toBeLessThan(1e-3)
      }
    }
    // at rest it stands as the figure does
    for (const { name, at } of motion.joints) {
      const bone = skeleton.bones.find((b) => b.name === name)!
      expect(new Vector3(...at).divideScalar(unit).distanceTo(new Vector3(...bone.at)), name).toBeLessThan(1e-4)
    }
    expect(matchMotion(motion, folk.bodies.get('human')!.plan).value!.doubtful).toEqual([])
  })

  it('that names clips has a motion of each', () => {
    const clips = [
      { name: 'First', from: 0, to: 0.4 },
      { name: 'Then', from: 0.4, to: 1 },
      { name: 'No time', from: 1, to: 1 },
    ]
    const { value } = readCollada(writeCollada(clip, skeleton, { clips }), 'two')
    expect(value!.map((m) => [m.name, Math.round((m.frames - 1) * m.step * 100) / 100])).toEqual([
      ['First', 0.4],
      ['Then', 0.6],
    ])
  })

  it('goes along curves where it has handles, and by steps where it says so', () => {
    const keys = (way: string) =>
      text.replace(/<library_animations>.*<\/library_animations>/, () => {
        const source = (id: string, values: string) => `<source id="${id}"><float_array count="2">${values}</float_array></source>` // prettier-ignore
        return (
          `<library_animations><animation>${source('i', '0 1')}${source('o', '0 10')}${source('b', '0 0 0.5 10')}` +
          `${source('f', '0.5 0 1 10')}<source id="w"><Name_array count="2">${way} ${way}</Name_array></source>` +
          '<sampler id="s"><input semantic="INPUT" source="#i"/><input semantic="OUTPUT" source="#o"/>' +
          '<input semantic="IN_TANGENT" source="#b"/><input semantic="OUT_TANGENT" source="#f"/>' +
          '<input semantic="INTERPOLATION" source="#w"/></sampler><channel source="#s" target="node-0/transform(0)(3)"/>' +
          '</animation></library_animations>'
        )
      })
    const at = (way: string, frame: number) => {
      const [motion] = readCollada(keys(way), 'eased').value!
      return motion!.moves[frame * motion!.joints.length * 3]!
    }
    // slow to start and slow to end: the cubic through (0 0) (½ 0) (½ 10) (1 10) is at 1.06 after a quarter
    expect([at('BEZIER', 15), at('LINEAR', 15), at('STEP', 15)]).toEqual([
      expect.closeTo(1.06, 2),
      expect.closeTo(2.5, 2),
      0,
    ])
    expect(at('BEZIER', 30)).toBeCloseTo(5, 3)
    expect(at('BEZIER', 60)).toBeCloseTo(10, 4)
  })

  it('that is cut, still, of other things, or of no numbers is refused in words, in bounded time', () => {
    expect(codeOf(text.slice(0, text.length / 2))).toEqual(['collada-xml'])
    expect(codeOf('<COLLADA></COLLADA')).toEqual(['collada-xml'])
    expect(codeOf('<svg><g/></svg>')).toEqual(['motion-foreign'])
    expect(codeOf(text.replace(/<library_animations>.*<\/library_animations>/, ''))).toEqual(['collada-still'])
    expect(codeOf(text.replace(/(<matrix sid="transform">)\S+/, '$1NaN'))).toEqual(['collada-values'])
    expect(codeOf(text.replace(/(<matrix sid="transform">)\S+ /, '$1'))).toEqual(['collada-values'])
    expect(codeOf(text.replace(/(a0-out-array"[^>]*>)\S+ /, '$1'))).toEqual(['collada-keys'])
    expect(codeOf(text.replace(/(a0-in-array"[^>]*>)\S+ /, '$15 '))).toEqual(['collada-keys'])
    expect(codeOf(text.replace('node-0/transform', 'node-0/transform(4)(9)'))).toEqual(['collada-member'])
    // entities that grow are not known
    const bomb = '<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]>'
    expect(codeOf(`${bomb}<COLLADA>&b;</COLLADA>`)).toEqual(['collada-xml'])
    expect(codeOf(`<COLLADA>${'<node>'.repeat(400)}${'</node>'.repeat(400)}</COLLADA>`)).toEqual(['collada-xml'])
    expect(codeOf(`<COLLADA>${'<a/>'.repeat(300_000)}</COLLADA>`)).toEqual(['collada-xml'])
    const forever = text.replace(/(a0-in-array"[^>]*>[^<]*) [^<\s]+</, '$1 1e9<')
    expect(codeOf(forever)).toEqual(['motion-long'])
  })

  it('with joints that are scaled unevenly is read, and told', () => {
    const { value, problems } = readCollada(text.replace('<matrix sid="transform">', '<scale>1 2 1</scale>$&'), 'odd')
    expect(value).toHaveLength(1)
    expect(problems.map((p) => [p.code, p.severity])).toEqual([['scale-uneven', 'warning']])
    expect(readCollada(text.replace('<matrix sid="transform">', '<scale>2 2 2</scale>$&'), 'even').problems).toEqual([])
  })

  it('with bones that are called nothing, and nodes that turn nothing, is read for all that', () => {
    const nameless = text.replace(/ name="[^"]*" type="JOINT"/g, ' type="JOINT"').replace(/ sid="left[^"]*"/g, '')
    const { value, problems } = readCollada(nameless, 'nameless')
    expect(problems).toEqual([])
    expect(new Set(value![0]!.joints.map((j) => j.name)).size).toBe(skeleton.bones.length)
  })
})
