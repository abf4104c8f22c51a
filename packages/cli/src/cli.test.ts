import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it, onTestFinished } from 'vitest'
import { BIPED } from '../../core/src/kit/plans/biped.ts'
import { BLOCKS, blockFigure } from '../../core/src/testing/blockFigure.ts'
import { KITS_FOLDER } from '../../core/src/testing/demoKits.ts'
import type { Recipe } from '../../core/src/recipe/schema.ts'
import { tinker } from './testing/tinker.ts'

let folder: string
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'tinker-cli-'))
  await tinker('figures', '--out', folder)
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const at = (name: string) => join(folder, name)

/** Where the joints of somebody a metre tall to the hips stand, centimetres. */
const STANCE: Record<string, [number, number, number]> = {
  hips: [0, 100, 0],
  spine: [0, 112, 0],
  chest: [0, 125, 0],
  neck: [0, 150, 0],
  head: [0, 160, 0],
  ...Object.fromEntries(
    (['left', 'right'] as const).flatMap((side) => {
      const x = side === 'left' ? 1 : -1
      const places: Record<string, [number, number, number]> = {
        UpperArm: [18 * x, 145, 0],
        LowerArm: [45 * x, 145, 0],
        Hand: [70 * x, 145, 0],
        UpperLeg: [10 * x, 95, 0],
        LowerLeg: [10 * x, 52, 1],
        Foot: [10 * x, 9, 0],
        Toes: [10 * x, 3, 12],
      }
      return Object.entries(places).map(([bone, place]) => [side + bone, place])
    }),
  ),
}

describe('tinker', () => {
  it('writes the scenario’s documents', () => {
    const names = readdirSync(folder)
    expect(names).toEqual(
      expect.arrayContaining(['maren-quill.recipe.json', 'quay-at-noon.mix.json', 'crowd.target.json']),
    )
  })

  it('builds a figure that checks out, by target name or file', async () => {
    const built = await tinker(
      'build',
      at('maren-quill.recipe.json'),
      '--target',
      'near',
      '--lod',
      '--out',
      at('m.glb'),
    )
    expect(built).toMatchObject({ code: 0, err: '' })
    const checked = await tinker('check', at('m.glb'))
    expect(checked.code).toBe(0)
    expect(checked.out).toContain('45 bones')
    const byFile = await tinker(
      'build',
      at('brother-eel.recipe.json'),
      '--target',
      at('crowd.target.json'),
      '--out',
      at('e.glb'),
      '--json',
    )
    expect(JSON.parse(byFile.out)).toMatchObject({ costs: { bones: 24 } })
  })

  it('edits a figure and shuffles it, and says what it cannot do', async () => {
    const maren = at('maren-quill.recipe.json')
    const read = (name: string) => JSON.parse(readFileSync(at(name), 'utf8')) as Recipe
    const edit = (...args: string[]) => tinker('edit', maren, ...args, '--out', at('edited.json'))
    expect(
      await edit(
        '--set',
        'shoulders=0.4',
        '--set',
        'ears=0.1,-0.3',
        '--part',
        'hat=cap-knit',
        '--part',
        'over=',
        '--name',
        'Bo',
      ),
    ).toMatchObject({ code: 0, err: '' })
    const edited = read('edited.json')
    expect(edited).toMatchObject({ name: 'Bo', sliders: { shoulders: 0.4, ears: [0.1, -0.3] } })
    expect(edited.parts.find((p) => p.slot === 'hat')!.part.id).toBe('cap-knit')
    expect(edited.parts.some((p) => p.slot === 'over')).toBe(false)
    expect((await tinker('check', at('edited.json'))).code).toBe(0)
    expect(await edit('--expression', 'glad=0.5', '--set', 'blink=0,1')).toMatchObject({ code: 0, err: '' })
    // what is set by hand comes after the face
    expect(read('edited.json').sliders).toMatchObject({ smile: 0.575, squint: 0.35, blink: [0, 1] })
    expect(await edit('--expression', 'rest')).toMatchObject({ code: 0, err: '' })
    expect(read('edited.json').sliders.smile).toBeUndefined()
    rmSync(at('edited.json'))
    for (const [args, why] of [
      [['--expression', 'sour'], 'There is no expression “sour”'],
      [['--expression', 'glad=2'], 'It goes from 0 to 1'],
      [['--set', 'wings=1'], 'There is no slider “wings”'],
      [['--set', 'shoulders=wide'], 'no value of it'],
      [['--set', 'shoulders=1.5'], 'from -1 to 1'],
      [['--set', 'shoulders='], 'no value of it'],
      [['--set', 'shoulders=0,0,0'], 'no value of it'],
      [['--part', 'hat=crown'], 'There is no part “crown”'],
      [['--part', 'wings=x'], 'There is no slot “wings”'],
    ] as const) {
      const { code, err } = await edit(...args)
      expect([code, err], args.join(' ')).toEqual([1, expect.stringContaining(why)])
    }
    expect(existsSync(at('edited.json'))).toBe(false)

    const spring = (...args: string[]) =>
      tinker('edit', at('long-annie.recipe.json'), ...args.flatMap((a) => ['--spring', a]), '--out', at('swung.json'))
    expect(await spring('tail', 'lure-stalk=0.5,0.4,1.2')).toMatchObject({ code: 0, err: '' })
    const usual = { stiffness: 0.8, drag: 0.4, gravity: 0.15 }
    expect(read('swung.json').springs).toEqual({
      tail: usual,
      'lure-stalk': { stiffness: 0.5, drag: 0.4, gravity: 1.2 },
    })
    expect(await spring('tail=none', 'lure-stalk=none')).toMatchObject({ code: 0 })
    expect(read('swung.json').springs).toBeUndefined()
    for (const [text, why] of [
      ['mane', 'There is no chain “mane”'],
      ['leftHindLeg', 'There is no chain “leftHindLeg”'],
      ['tail=0.5', 'a stiffness from 0.05 to 4'],
      ['tail=0.5,,0.1', 'does not say how it swings'],
      ['tail=0.5,2,0.1', 'does not say how it swings'],
    ] as const)
      expect(await spring(text)).toMatchObject({ code: 1, err: expect.stringContaining(why) as string })

    const shuffle = (name: string, ...args: string[]) => tinker('shuffle', maren, ...args, '--out', at(name))
    await shuffle('a.json', '--seed', '5', '--strength', '0.5')
    await shuffle('b.json', '--seed', '5', '--strength', '0.5')
    await shuffle('c.json', '--seed', '6', '--strength', '0.5')
    expect(read('a.json')).toEqual(read('b.json'))
    expect(read('a.json')).not.toEqual(read('c.json'))
    await shuffle('same.json', '--strength', '0')
    expect(read('same.json')).toEqual(JSON.parse(readFileSync(maren, 'utf8')))
    expect((await shuffle('d.json', '--strength', '2')).err).toContain('from 0 to 1')
    expect((await shuffle('d.json', '--seed', 'x')).err).toContain('whole number')
  })

  it('carries parts over to another body, tells how each went, and what cannot be', async () => {
    const refit = (...args: string[]) => tinker('kit', 'refit', ...args)
    const shore = ['--from', 'saltwick-folk/human', '--to', 'tide-creatures/ottern', '--id', 'shore', '--json']
    const told = await refit('jersey', 'saltwick-folk/hat-brimmed', 'peg-leg', ...shore, '--out', at('kits2/shore'))
    expect([told.code, JSON.parse(told.err)]).toEqual([0, expect.objectContaining({ code: 'refit-cannot' })])
    const [jersey, hat] = told.out.split('\n').map((line) => JSON.parse(line) as Record<string, never>)
    expect(jersey).toMatchObject({ part: 'saltwick-folk/jersey', worst: { end: expect.stringMatching(/up|down/) } })
    expect(jersey!.moved).toMatchObject({ mean: expect.any(Number), most: expect.any(Number) })
    expect(hat).toMatchObject({ part: 'saltwick-folk/hat-brimmed' })
    expect((await tinker('check', at('kits2/shore'))).out).toContain('2 parts, all readable')
    const nowhere = ['--from', 'saltwick-folk/human', '--to', 'tide-creatures/nobody']
    expect(await refit('jersey', ...nowhere)).toMatchObject({ code: 1, err: expect.stringContaining('not here') })
    expect((await refit('jersey', '--from', 'saltwick-folk/human')).code).toBe(2)
    // as sentences
    const said = await refit('jersey', ...shore.slice(0, -1))
    expect(said.out).toMatch(/^saltwick-folk\/jersey: went \d+ mm, \d+ mm at most; \d+ % of it is doubtful/)
  })

  it('takes a shipped figure apart into a body and parts that can be worn again, and says what stands in its way', async () => {
    await tinker('build', at('tamsin-reke.recipe.json'), '--target', 'near', '--lod', '--out', at('whole.glb'))
    const split = (input: string, ...args: string[]) => tinker('kit', 'split', input, ...args)
    const human = ['--body', 'saltwick-folk/human']
    const told = await split(at('whole.glb'), ...human, '--json', '--out', at('apart'), '--id', 'apart')
    expect(told).toMatchObject({ code: 0, err: '' })
    const [placing, ...bits] = told.out.split('\n').map((line) => JSON.parse(line) as Record<string, unknown>)
    expect(placing).toMatchObject({ placing: { up: 'y', front: 'z', unit: 'm' } })
    expect(bits.length).toBeGreaterThan(4)
    for (const bit of bits) expect(bit).toMatchObject({ from: 'whole.glb#0', others: [{}, {}] })
    expect(bits.filter((b) => b.slot === '@body')).toHaveLength(1)
    expect((await tinker('check', at('apart'))).out).toMatch(/1 bodies, \d+ parts, all readable/)
    expect((await split(at('whole.glb'), ...human, '--parts', '--out', at('only'), '--id', 'only')).out).not.toContain(
      '@body',
    )
    expect((await tinker('check', at('only'))).out).toMatch(/0 bodies, \d+ parts, all readable/)
    for (const side of ['many', '-1', '2000', '1.5', ''])
      expect((await split(at('whole.glb'), ...human, '--pictures', side)).code, side).toBe(2)
    // what was not asked for is not taken apart, and a kit that is there is not written over
    expect((await split(at('whole.glb'), ...human, '--out', at('apart'))).err).toContain('There is a kit')
    expect((await split(at('none.glb'), ...human)).code).toBe(1)
    expect((await split(at('whole.glb'))).err).toContain('Which body they are for')
    expect((await split(at('whole.glb'), ...human, '--unit', 'ell')).err).toContain('“ell” is none')
    // without a skeleton they are parts for the body that is named
    const pack = at('two')
    mkdirSync(pack)
    for (const part of ['coat-quay', 'boots-sea'])
      copyFileSync(join(KITS_FOLDER, 'saltwick-folk/parts', `${part}.glb`), join(pack, `${part}.glb`))
    const parts = await split(pack, ...human, '--all', '--out', at('parts'), '--id', 'parts')
    expect(parts.out).toContain('It is all of the material')
    expect((await tinker('check', at('parts'))).out).toContain('0 bodies')
  })

  it('sorts a pack of loose models into a kit that figures can wear, and says what stands in its way', async () => {
    const pack = at('pack')
    mkdirSync(pack)
    for (const [name, part] of [
      ['Long_Coat_01', 'coat-quay'],
      ['thing', 'boots-sea'],
    ] as const)
      copyFileSync(join(KITS_FOLDER, 'saltwick-folk/parts', `${part}.glb`), join(pack, `${name}.glb`))
    writeFileSync(join(pack, 'bad.glb'), 'no model')
    const sort = (input: string, ...args: string[]) => tinker('kit', 'sort', input, ...args)
    const human = ['--body', 'saltwick-folk/human']
    const told = await sort(pack, ...human, '--json', '--out', at('kits/own'), '--id', 'own', '--name', 'My own')
    expect([told.code, JSON.parse(told.err)]).toEqual([0, expect.objectContaining({ where: 'bad.glb' })])
    const [placing, coat, boots] = told.out.split('\n').map((line) => JSON.parse(line) as Record<string, unknown>)
    expect(placing).toMatchObject({ placing: { up: 'y', front: 'z', unit: 'm' } })
    expect(coat).toMatchObject({ piece: 'Long_Coat_01.glb#0', slot: 'over' })
    expect(boots).toMatchObject({ slot: 'feet', others: [{}, {}] })
    expect(boots!.confidence).toBeGreaterThan(0.9)
    // the kit is one like any other
    const kits = ['--kits', KITS_FOLDER, at('kits')]
    expect((await tinker('check', at('kits/own'))).out).toContain('2 parts, all readable')
    const worn = ['--part', 'over=long-coat-01', '--out', at('own.recipe.json')]
    expect(await tinker('edit', at('maren-quill.recipe.json'), ...worn, ...kits)).toMatchObject({ code: 0, err: '' })
    expect(await tinker('build', at('own.recipe.json'), ...kits, '--out', at('own.glb'))).toMatchObject({ code: 0 })
    expect((await tinker('check', at('own.glb'))).code).toBe(0)
    // what is wrong with a model is said, and mended where that is asked for
    const turned = at('turned')
    mkdirSync(turned)
    // a box whose faces all look inwards
    const places = [0, 1, 2, 3, 4, 5, 6, 7].map((c) => `v ${c & 1 ? 5 : -5} ${c & 2 ? 10 : 0} ${c & 4 ? 5 : -5}`)
    const faces = ['1 2 4 3', '5 7 8 6', '1 5 6 2', '3 4 8 7', '1 3 7 5', '2 6 8 4']
    writeFileSync(join(turned, 'box.obj'), ['o box', ...places, ...faces.map((f) => `f ${f}`)].join('\n'))
    const found = await tinker('kit', 'check', turned)
    expect(found).toMatchObject({ code: 1, out: '0 of 1 pieces are sound.' })
    expect(found.err).toMatch(/box\.obj#0: It is inside out\. It can be turned\./)
    const out = ['--out', at('kits/box'), '--id', 'box', '--mend', '--json']
    const mended = await sort(turned, ...human, '--unit', 'cm', '--up', 'y', '--front', 'z', ...out)
    expect(JSON.parse(mended.out.split('\n')[1]!)).toMatchObject({
      findings: [expect.objectContaining({ severity: 'error', mendable: true })],
    })
    const sound = await tinker('kit', 'check', at('kits/box'), '--json')
    expect([sound.code, sound.err, JSON.parse(sound.out)]).toEqual([0, '', { sound: 1, pieces: 1 }])
    expect(await tinker('kit', 'check', join(KITS_FOLDER, 'tide-creatures'))).toMatchObject({ code: 0, err: '' })
    // a zip, one file, and what a person knows better
    const zip = zipSync({ 'models/coat.glb': new Uint8Array(readFileSync(join(pack, 'Long_Coat_01.glb'))) })
    writeFileSync(at('pack.zip'), zip)
    expect((await sort(at('pack.zip'), ...human)).out).toContain('models/coat.glb#0: over')
    const one = await sort(join(pack, 'thing.glb'), ...human, '--unit', 'cm', '--up', 'z', '--front', '-y')
    expect(one.out).toMatch(/^Up is z \(100 %\), the front -y \(100 %\), the unit cm \(100 %\)/)

    for (const [args, why] of [
      [[at('nowhere'), ...human], 'no such file'],
      [[pack], 'Which body they are for is not said'],
      [[pack, '--body', 'no/body'], 'There is no body “no/body”'],
      [[pack, ...human, '--up', 'w'], '“w” is none'],
      [[pack, ...human, '--up', 'z', '--front', '-z'], 'What is up cannot be in front'],
      [[pack, ...human, '--out', at('kits/own')], 'There is a kit in this folder already'],
      [[pack, ...human, '--out', at('kits/odd'), '--id', 'No Id'], 'kit.json/id'],
      [[at('maren-quill.recipe.json'), ...human], 'No model was found'],
    ] as const) {
      const { code, err } = await sort(...(args as [string, ...string[]]))
      expect([code, err], args.join(' ')).toEqual([1, expect.stringContaining(why)])
    }
    expect(existsSync(at('kits/odd'))).toBe(false)
  })

  it('lists what a figure can play, with numbers', async () => {
    const { code, out } = await tinker('clips', at('brother-eel.recipe.json'), '--json')
    expect(code).toBe(0)
    const clips = out
      .split('\n')
      .map((line) => JSON.parse(line) as { id: string; numbers: { depth: { most: number } } })
    expect(clips.map((c) => c.id)).toContain('walk')
    for (const { id, numbers } of clips) expect(numbers.depth.most, id).toBeLessThan(0.005)
    expect((await tinker('clips', at('nobody.recipe.json'))).code).toBe(1)
  })

  it('gives a mesh bones, says where it looked less surely, and takes landmarks that were put right', async () => {
    const { positions, triangles } = blockFigure(BLOCKS.tall!).piece
    // lying on its back in centimetres, as others write it
    const points = Array.from({ length: positions.length / 3 }, (_, p) => [...positions.subarray(p * 3, p * 3 + 3)])
    const lines = points.map(([x, y, z]) => `v ${x! * 100} ${-z! * 100} ${y! * 100}`)
    for (let t = 0; t < triangles.length; t += 3)
      lines.push(`f ${[...triangles.subarray(t, t + 3)].map((v) => v + 1).join(' ')}`)
    writeFileSync(at('blocks.obj'), lines.join('\n'))
    const go = (mesh: string, ...more: string[]) => tinker('rig', mesh, '--out', at('blocks.glb'), ...more)
    const first = await go(at('blocks.obj'), '--landmarks', at('blocks.json'), '--kit', at('blocks-kit'), '--json')
    expect(first).toMatchObject({ code: 0, err: '' })
    const said = first.out.split('\n').map((l) => JSON.parse(l) as Record<string, unknown>)
    expect(said[0]).toMatchObject({ placing: { up: 'z', front: '-y', unit: 'cm' }, build: 'biped' })
    expect(said.filter((l) => 'clip' in l).map((l) => l.clip)).toEqual(['idle', 'walk'])
    expect((await tinker('check', at('blocks.glb'))).code).toBe(0)
    expect((await tinker('check', at('blocks-kit'))).code).toBe(0)

    const file = JSON.parse(readFileSync(at('blocks.json'), 'utf8')) as { landmarks: Record<string, number[]> }
    file.landmarks.leftElbow![1]! += 0.05
    writeFileSync(at('blocks.json'), JSON.stringify(file))
    const before = readFileSync(at('blocks.glb'))
    expect((await go(at('blocks.obj'), '--landmarks', at('blocks.json'))).code).toBe(0)
    expect(readFileSync(at('blocks.glb')).equals(before)).toBe(false)

    writeFileSync(at('flat.obj'), 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n')
    const flat = await go(at('flat.obj'))
    expect([flat.code, flat.err.includes('flat')]).toEqual([1, true])
    writeFileSync(at('blocks.json'), '{}')
    const odd = await go(at('blocks.obj'), '--landmarks', at('blocks.json'))
    expect([odd.code, odd.err.includes('not a file of landmarks')]).toEqual([1, true])
    expect((await go(at('blocks.obj'), '--up', 'down')).code).toBe(1)
    expect((await go(at('nothing.obj'))).code).toBe(1)
  })

  it('carries a motion onto figures with what it found of its bones, and says what stands in its way', async () => {
    const { bones } = BIPED
    // one that only breathes: enough to be carried
    const children = (parent: string | null): string =>
      bones
        .filter((b) => b.parent === parent)
        .map(({ name }) => {
          const at = STANCE[name]
          const inner = children(name)
          if (!at) return inner
          const up = bones.find((b) => b.name === name)!.parent
          const from = (up && STANCE[up]) || [0, 0, 0]
          const offset = at.map((v, k) => v - from[k]!).join(' ')
          const channels = up
            ? '3 Zrotation Xrotation Yrotation'
            : '6 Xposition Yposition Zposition Zrotation Xrotation Yrotation'
          return `${up ? 'JOINT' : 'ROOT'} ${name}\n{\nOFFSET ${up ? offset : '0 0 0'}\nCHANNELS ${channels}\n${inner || 'End Site\n{\nOFFSET 0 -4 8\n}\n'}}\n`
        })
        .join('')
    const turning = Object.keys(STANCE).length
    const frame = (f: number) => ['0', String(100 - f * 0.05), '0', ...Array(turning * 3).fill('0')].join(' ')
    const text = `HIERARCHY\n${children(null)}MOTION\nFrames: 31\nFrame Time: 0.0333333\n${Array.from({ length: 31 }, (_, f) => frame(f)).join('\n')}\n`
    writeFileSync(at('breathe.bvh'), text)
    const go = (files: string[], onto: string, ...more: string[]) =>
      tinker('retarget', ...files, '--onto', onto, '--out', at('carried'), ...more)
    const first = await go([at('breathe.bvh')], at('maren-quill.recipe.json'), '--match', at('bones.json'), '--json')
    expect(first).toMatchObject({ code: 0, err: '' })
    const said = JSON.parse(first.out) as { file: string; seconds: number; numbers: { depth: { most: number } } }
    expect(said.seconds).toBeCloseTo(1, 2)
    expect(said.numbers.depth.most).toBeLessThan(0.005)
    expect((await tinker('check', said.file)).code).toBe(0)
    const match = JSON.parse(readFileSync(at('bones.json'), 'utf8')) as { bones: Record<string, string>; up: string }
    expect([match.up, match.bones.leftFoot]).toEqual(['+y', 'leftFoot'])
    // the match is taken for the next figure, shipped from here; another skeleton’s is passed over
    const second = await go([at('breathe.bvh'), at('nothing.bvh')], said.file, '--match', at('bones.json'), '--once')
    expect(second.code).toBe(1)
    expect(second.out).toContain('once')
    expect(second.err).toContain('nothing.bvh')
    writeFileSync(at('other.json'), JSON.stringify({ ...match, skeleton: '0'.repeat(64) }))
    const other = await go([at('breathe.bvh')], at('brother-eel.recipe.json'), '--match', at('other.json'))
    expect([other.code, other.err.includes('another skeleton')]).toEqual([0, true])
    writeFileSync(at('broken.json'), '{')
    expect((await go([at('breathe.bvh')], said.file, '--match', at('broken.json'))).code).toBe(1)
    expect((await go([at('breathe.bvh')], said.file, '--from', 'soon')).code).toBe(2)
    expect((await go([at('breathe.bvh')], said.file, '--once', '--loop')).code).toBe(2)
    expect((await go([at('breathe.bvh')], at('tick.recipe.json'))).err).toContain('legs')
  })

  it('builds a crowd with its table', async () => {
    const { code } = await tinker(
      'crowd',
      at('quay-at-noon.mix.json'),
      '--count',
      '5',
      '--seed',
      '8',
      '--out',
      at('crowd'),
    )
    expect(code).toBe(0)
    const table = JSON.parse(readFileSync(at('crowd/crowd.json'), 'utf8')) as {
      variants: { file: string; costs: { triangles: number }; nearest: { distance: number } }[]
    }
    expect(table.variants).toHaveLength(5)
    for (const v of table.variants) {
      expect(v.costs.triangles).toBeLessThanOrEqual(900)
      expect(v.nearest.distance).toBeGreaterThan(0)
      expect(
        readFileSync(join(at('crowd'), v.file))
          .subarray(0, 4)
          .toString(),
      ).toBe('glTF')
    }
  })

  it('builds the same crowd to the byte for the same seed, another for another', async () => {
    const crowd = async (seed: string, to: string) => {
      expect(
        (await tinker('crowd', at('quay-at-noon.mix.json'), '--count', '3', '--seed', seed, '--out', at(to))).code,
      ).toBe(0)
      return new Map(
        readdirSync(at(to)).map((name) => [name, readFileSync(join(at(to), name)).toString('base64')] as const),
      )
    }
    const [a, b, c] = [await crowd('5', 'a'), await crowd('5', 'b'), await crowd('6', 'c')]
    expect(b).toEqual(a)
    expect([...c.values()]).not.toEqual([...a.values()])
  })

  it('writes levels of detail when asked, and a bigger file for it', async () => {
    const size = async (name: string, ...more: string[]) => {
      await tinker('build', at('old-berrit.recipe.json'), '--target', 'crowd', '--out', at(name), ...more, '--json')
      return existsSync(at(name)) ? statSync(at(name)).size : 0
    }
    const plain = await size('plain.glb')
    expect(plain).toBeGreaterThan(10_000)
    expect(await size('levels.glb', '--lod')).toBeGreaterThan(plain)
  })

  it('takes kits from folders, one kit or many', async () => {
    for (const folder of [KITS_FOLDER, join(KITS_FOLDER, 'saltwick-folk')])
      expect((await tinker('build', at('maren-quill.recipe.json'), '--kits', folder, '--out', at('k.glb'))).code).toBe(
        0,
      )
    const wrong = await tinker(
      'build',
      at('maren-quill.recipe.json'),
      '--kits',
      join(KITS_FOLDER, 'tide-creatures'),
      '--out',
      at('wrong.glb'),
    )
    expect(wrong.code).toBe(1)
    expect(wrong.err).toContain('not here')
    expect(existsSync(at('wrong.glb'))).toBe(false)
  })

  it('writes nothing of a crowd when one pinned figure is bad', async () => {
    const mix = JSON.parse(readFileSync(at('quay-at-noon.mix.json'), 'utf8')) as Record<string, unknown>
    const pin = JSON.parse(readFileSync(at('maren-quill.recipe.json'), 'utf8')) as { body: { kit: string } }
    writeFileSync(
      at('pinned.mix.json'),
      JSON.stringify({ ...mix, pins: { 2: { ...pin, body: { ...pin.body, kit: 'gone' } } } }),
    )
    const { code, err } = await tinker('crowd', at('pinned.mix.json'), '--count', '4', '--out', at('never-made'))
    expect(code).toBe(1)
    expect(err).toContain('Maren Quill')
    expect(existsSync(at('never-made'))).toBe(false)
  })

  it('says which limit holds when mix and target differ', async () => {
    const crowd = await tinker(
      'crowd',
      at('quay-at-noon.mix.json'),
      '--count',
      '2',
      '--target',
      'near',
      '--out',
      at('l'),
    )
    expect(crowd.code).toBe(0)
    expect(crowd.err).toContain('the mix’s own limit of 900 triangles')
    expect(crowd.err).toContain('3500')
    expect(crowd.out).toContain('at most 900 triangles')
    const far = await tinker('crowd', at('quay-at-noon.mix.json'), '--count', '2', '--target', 'far', '--out', at('l'))
    expect(far.err).toContain('the limit of the target “far”, 250 triangles')
    const same = await tinker('crowd', at('quay-at-noon.mix.json'), '--count', '2', '--out', at('l'))
    expect(same.err).toBe('')
  })

  it('clears away what an earlier crowd left, and nothing else', async () => {
    const crowd = (count: string) =>
      tinker('crowd', at('quay-at-noon.mix.json'), '--count', count, '--out', at('twice'))
    await crowd('4')
    writeFileSync(join(at('twice'), 'mine.glb'), 'kept')
    expect(readdirSync(at('twice'))).toHaveLength(7)
    await crowd('2')
    const left = readdirSync(at('twice'))
    expect(left).toHaveLength(5)
    expect(left).toContain('mine.glb')
  })

  it('builds the same files in threads as one by one', async () => {
    let started = 0
    const count = () => started++
    process.on('worker', count)
    onTestFinished(() => void process.off('worker', count))
    const many = await tinker(
      'crowd',
      at('quay-at-noon.mix.json'),
      '--count',
      '5',
      '--threads',
      '2',
      '--out',
      at('threads'),
    )
    expect(many.code).toBe(0)
    expect(started).toBeGreaterThan(0)
    for (const odd of ['0', '1.5', 'many', '65', ''])
      expect((await tinker('crowd', at('quay-at-noon.mix.json'), '--threads', odd, '--out', at('no'))).code, odd).toBe(
        2,
      )
    const table = JSON.parse(readFileSync(at('threads/crowd.json'), 'utf8')) as {
      variants: { recipe: object; file: string }[]
    }
    const { recipe, file } = table.variants[4]!
    writeFileSync(at('one.recipe.json'), JSON.stringify(recipe))
    await tinker('build', at('one.recipe.json'), '--target', 'crowd', '--out', at('one.glb'))
    expect(readFileSync(at('one.glb')).equals(readFileSync(join(at('threads'), file)))).toBe(true)
  })

  it.each([
    ['a place below a file', () => join(at('maren-quill.recipe.json'), 'x/y.glb')],
    ['a place where nothing can be made', () => '/proc/nowhere/deeper/x.glb'],
    ['a folder', () => folder],
  ])('says so when it cannot write to %s, and does not hang', async (_name, place) => {
    const { code, err } = await tinker('build', at('maren-quill.recipe.json'), '--out', place())
    expect(code).toBe(1)
    expect(err).toContain(place().slice(0, 10))
  })

  it('writes into a device and leaves it what it is', async () => {
    expect((await tinker('build', at('maren-quill.recipe.json'), '--out', '/dev/null')).code).toBe(0)
    expect(statSync('/dev/null').isCharacterDevice()).toBe(true)
  })

  it('keeps pinned figures in their places', async () => {
    const mix = JSON.parse(readFileSync(at('quay-at-noon.mix.json'), 'utf8')) as Record<string, unknown>
    const pin = JSON.parse(readFileSync(at('maren-quill.recipe.json'), 'utf8')) as object
    writeFileSync(at('pinned.mix.json'), JSON.stringify({ ...mix, pins: { 1: pin } }))
    await tinker('crowd', at('pinned.mix.json'), '--count', '3', '--out', at('with-maren'))
    const table = JSON.parse(readFileSync(at('with-maren/crowd.json'), 'utf8')) as {
      variants: { recipe: unknown; file: string }[]
    }
    expect(table.variants[1]!.recipe).toEqual(pin)
    expect(table.variants[1]!.file).toBe('maren-quill.glb')
  })

  it('checks kits and recipes', async () => {
    expect((await tinker('check', join(KITS_FOLDER, 'saltwick-folk'))).out).toContain('all readable')
    for (const name of ['tamsin-reke.recipe.json', 'quay-at-noon.mix.json', 'near.target.json'])
      expect((await tinker('check', at(name))).code, name).toBe(0)
    expect((await tinker('check', '/dev/null')).err).toContain('no ordinary file')
  })

  it.each([
    ['broken JSON', '{', 'json'],
    ['a wrong schema', '{"format":"idle-tinker-recipe","version":1}', 'schema'],
    ['another format', '{"format":"nothing"}', 'format'],
  ])('refuses %s, writes nothing and replaces nothing', async (_name, text, code) => {
    writeFileSync(at('bad.json'), text)
    writeFileSync(at('kept.glb'), 'as it was')
    const run = await tinker('build', at('bad.json'), '--out', at('kept.glb'), '--json')
    expect(run.code).toBe(1)
    expect(JSON.parse(run.err.split('\n')[0]!)).toMatchObject({ code })
    expect(readFileSync(at('kept.glb'), 'utf8')).toBe('as it was')
    expect(readdirSync(folder).filter((f) => f.endsWith('.part'))).toEqual([])
  })

  it('refuses an unknown kit, a part of another body, and numbers that are none', async () => {
    const recipe = JSON.parse(readFileSync(at('maren-quill.recipe.json'), 'utf8')) as {
      body: { kit: string }
      parts: { slot: string; part: { kit: string; id: string } }[]
    }
    const run = async (change: (r: typeof recipe) => void) => {
      const copy = structuredClone(recipe)
      change(copy)
      writeFileSync(at('bad.json'), JSON.stringify(copy))
      return tinker('build', at('bad.json'), '--out', at('never.glb'))
    }
    expect((await run((r) => (r.body.kit = 'gone'))).err).toContain('not here')
    expect(
      (
        await run((r) =>
          Object.assign(r.parts.find((p) => p.slot === 'eyes')!.part, { kit: 'tide-creatures', id: 'eyes-sly' }),
        )
      ).err,
    ).toContain('another body')
    for (const count of ['many', '0', '2001', '2.5', '']) {
      const { code, err } = await tinker('crowd', at('quay-at-noon.mix.json'), '--count', count, '--out', at('never'))
      expect([code, err]).toEqual([2, expect.stringMatching(/--count.*whole number from 1 to 2000/s)])
    }
    expect(readdirSync(folder)).not.toContain('never.glb')
  })

  it('checks files that are empty or cut off without falling over', async () => {
    writeFileSync(at('empty.glb'), '')
    writeFileSync(at('cut.glb'), readFileSync(at('m.glb')).subarray(0, 3000))
    expect((await tinker('check', at('empty.glb'))).err).toContain('empty')
    expect((await tinker('check', at('cut.glb'))).code).toBe(1)
    expect((await tinker('check', at('gone.glb'))).code).toBe(1)
  })

  it('tells how it is used', async () => {
    expect((await tinker()).code).toBe(2)
    expect((await tinker('--help')).out).toMatch(/build .*crowd .*check .*figures /s)
    expect((await tinker('crowd', '--help')).out).toContain('--count')
    expect((await tinker('dance', 'x', '--out', 'y')).err).toContain('unknown command')
    expect((await tinker('dance', 'x')).code).toBe(2)
    expect((await tinker('build', '--wings')).code).toBe(2)
    expect((await tinker('build', at('maren-quill.recipe.json'))).err).toContain('--out')
    expect(
      (await tinker('build', at('maren-quill.recipe.json'), '--out', at('x.glb'), '--target', 'moon')).err,
    ).toContain('no target')
    expect(
      (await tinker('build', at('maren-quill.recipe.json'), '--out', at('x.glb'), '--kits', '/nowhere')).err,
    ).toContain('no such folder')
  })
})
