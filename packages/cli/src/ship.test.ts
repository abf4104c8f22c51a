import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { demoTarget } from '../../core/src/testing/demoKits.ts'
import { tinker } from './testing/tinker.ts'

let folder: string
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'tinker-ship-'))
  await tinker('figures', '--out', folder)
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const at = (name: string) => join(folder, name)

describe('tinker ship', () => {
  it('writes each format with all its files, and says which', async () => {
    const told = await tinker(
      'ship',
      at('tamsin-reke.recipe.json'),
      '--format',
      'glb',
      'obj',
      '--lod',
      '--out',
      at('out'),
      '--json',
    )
    expect(told.code).toBe(0)
    const lines = told.out.split('\n').map((l) => JSON.parse(l) as { format: string; files: string[]; bytes: number })
    expect(lines.map((l) => l.format)).toEqual(['glb', 'obj'])
    const files = readdirSync(at('out'))
    expect(files.sort()).toEqual(lines.flatMap((l) => l.files).sort())
    expect(files).toEqual(
      expect.arrayContaining([
        'tamsin-reke.glb',
        'tamsin-reke.obj',
        'tamsin-reke-lod1.obj',
        'tamsin-reke.mtl',
        'tamsin-reke.png',
      ]),
    )
    const obj = readFileSync(at('out/tamsin-reke.obj'), 'utf8')
    // what it names lies beside it
    expect(existsSync(at(`out/${/^mtllib (.*)$/m.exec(obj)![1]}`))).toBe(true)
    const mtl = readFileSync(at('out/tamsin-reke.mtl'), 'utf8')
    expect(existsSync(at(`out/${/^map_Kd (.*)$/m.exec(mtl)![1]}`))).toBe(true)
    const size = lines[1]!.files.reduce((sum, f) => sum + statSync(at(`out/${f}`)).size, 0)
    expect(lines[1]!.bytes).toBe(size)
  })

  it('leaves nothing of a format that cannot be written whole, and says what is wrong', async () => {
    // there is a folder where its picture would be
    mkdirSync(at('full/tamsin-reke.png'), { recursive: true })
    const told = await tinker('ship', at('tamsin-reke.recipe.json'), '--format', 'obj', '--out', at('full'))
    expect([told.code, readdirSync(at('full'))]).toEqual([1, ['tamsin-reke.png']])
    expect(told.err).toContain('there is a folder of that name')
    expect(await tinker('ship', at('tamsin-reke.recipe.json'), '--format', 'stl', '--out', at('no'))).toMatchObject({
      code: 2,
    })
    expect((await tinker('ship', at('nobody.recipe.json'), '--out', at('no'))).code).toBe(1)
    expect(existsSync(at('no'))).toBe(false)
  })

  it('writes every format a human can leave in, each of which the check finds good', async () => {
    const formats = ['glb', 'gltf', 'vrm', 'obj', 'dae', 'bvh']
    const told = await tinker('ship', at('tamsin-reke.recipe.json'), '--format', ...formats, '--author', 'Ada', '--name', '{target}_{figure}', '--out', at('all')) // prettier-ignore
    expect([told.code, told.err]).toEqual([0, ''])
    for (const file of ['glb', 'gltf', 'vrm', 'obj', 'dae'].map((f) => `near_tamsin-reke.${f}`)) {
      const checked = await tinker('check', at(`all/${file}`), '--target', 'near')
      expect([file, checked.code, checked.err]).toEqual([file, 0, ''])
      expect(checked.out).toMatch(/It stands 1\.\d\d m tall|Its skeleton is 1\.\d\d m tall/)
    }
    const wrong = await tinker('check', at('all/near_tamsin-reke.glb'), '--target', 'far')
    expect([wrong.code, wrong.err.includes('the target allows')]).toEqual([1, true])
    expect((await tinker('check', at('all/near_tamsin-reke.glb'), '--target', 'nowhere')).err).toContain('no target')
  })

  it('leaves what one format has written where another, which shares it, cannot be', async () => {
    mkdirSync(at('half/tamsin-reke-walk.dae'), { recursive: true })
    const told = await tinker('ship', at('tamsin-reke.recipe.json'), '--format', 'gltf', 'dae', '--out', at('half'))
    expect(told.code).toBe(1)
    // the picture is glTF's as well; of COLLADA nothing is left but what was there
    expect(readdirSync(at('half')).sort()).toEqual([
      'tamsin-reke-walk.dae',
      'tamsin-reke.bin',
      'tamsin-reke.gltf',
      'tamsin-reke.png',
    ])
  })

  it('takes clips of one’s own along, in every format that holds clips', async () => {
    await tinker('clips', at('tamsin-reke.recipe.json'), '--copy', 'wave', '--out', at('mine.clip.json'))
    const clip = JSON.parse(readFileSync(at('mine.clip.json'), 'utf8')) as { name: string }
    writeFileSync(at('mine.clip.json'), JSON.stringify({ ...clip, name: 'Harbour call' }))
    const ship = (file: string) => tinker('ship', at('tamsin-reke.recipe.json'), '--format', 'glb', 'bvh', '--clips', at(file), '--out', at('called')) // prettier-ignore
    expect((await ship('mine.clip.json')).code).toBe(0)
    expect(readdirSync(at('called'))).toContain('tamsin-reke-harbour-call.bvh')
    expect(readFileSync(at('called/tamsin-reke.glb')).toString('latin1')).toContain('"name":"Harbour call"')
    expect((await ship('gone.clip.json')).code).toBe(1)
  })

  it('refuses a VRM of nobody’s, a pattern that nobody knows, and what is found at fault unless one insists', async () => {
    const vrm = await tinker('ship', at('tamsin-reke.recipe.json'), '--format', 'vrm', '--out', at('none'))
    expect([vrm.code, vrm.err.includes('who made it')]).toEqual([1, true])
    const name = await tinker('ship', at('tamsin-reke.recipe.json'), '--name', '{hat}', '--out', at('none'))
    expect([name.code, name.err.includes('{hat}')]).toEqual([1, true])
    expect(existsSync(at('none'))).toBe(false)
    // eighty metres tall: it can be written, and nobody takes it for a figure
    const far = demoTarget('far')
    const giant = { ...far, id: 'giant', convention: { ...far.convention, scale: 50 } }
    writeFileSync(at('giant.target.json'), JSON.stringify(giant))
    const order = ['ship', at('old-berrit.recipe.json'), '--target', at('giant.target.json'), '--out', at('red')]
    const red = await tinker(...order)
    expect([red.code, red.err.includes('which no figure is'), existsSync(at('red'))]).toEqual([1, true, false])
    const insisted = await tinker(...order, '--insist')
    expect([insisted.code, readdirSync(at('red'))]).toEqual([1, ['old-berrit.glb']])
  })
})

describe('tinker ship of several things', () => {
  const few = (count: number) => {
    const mix = JSON.parse(readFileSync(at('quay-at-noon.mix.json'), 'utf8')) as object
    writeFileSync(at('few.mix.json'), JSON.stringify({ ...mix, count }))
    return at('few.mix.json')
  }
  const inside = (folder: string) =>
    readdirSync(at(folder), { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => join(entry.parentPath, entry.name).slice(at(folder).length + 1))

  it('writes figures and a crowd for every target into folders, each whole', async () => {
    const things = [at('maren-quill.recipe.json'), few(2)]
    const told = await tinker('ship', ...things, '--target', 'crowd', 'far', '--format', 'glb', 'json', '--out', at('many'), '--json') // prettier-ignore
    expect([told.code, told.err]).toEqual([0, expect.any(String)])
    const lines = told.out.split('\n').map((l) => JSON.parse(l) as { kind: string; target: string; files: string[] })
    expect(lines.map((l) => [l.kind, l.target])).toEqual(['crowd', 'far'].flatMap((t) => [['figure', t], ['crowd', t]])) // prettier-ignore
    expect(inside('many').sort()).toEqual(lines.flatMap((l) => l.files).sort())
    expect(lines[0]!.files).toEqual(['crowd/maren-quill.glb', 'crowd/maren-quill.recipe.json'])
    // two figures in two formats, and their tables
    expect(lines[3]!.files.filter((f) => f.startsWith('far/quay-at-noon/'))).toHaveLength(6)
    const check = await tinker('check', at('many/crowd/maren-quill.glb'), '--target', 'crowd')
    expect([check.code, check.err]).toEqual([0, ''])
  })

  it('names who made them, and keeps what else the license of their target says', async () => {
    const near = { ...demoTarget('near'), id: 'lent', license: { authors: ['Somebody'], credit: 'not-needed' } }
    writeFileSync(at('lent.target.json'), JSON.stringify(near))
    const things = ['maren-quill', 'tamsin-reke'].map((id) => at(`${id}.recipe.json`))
    for (const documents of [things, things.slice(0, 1)]) {
      const told = await tinker('ship', ...documents, '--target', at('lent.target.json'), '--format', 'vrm', '--author', 'Ada', '--folders', 'lent', '--out', at('lent')) // prettier-ignore
      expect(told.code).toBe(0)
      const text = readFileSync(at('lent/lent/maren-quill.vrm'), 'latin1')
      expect([text.includes('"authors":["Ada"]'), text.includes('"creditNotation":"unnecessary"')]).toEqual([
        true,
        true,
      ])
    }
  })

  it('tells two that would be one file, and what is no document; nothing else is written for it', async () => {
    const maren = at('maren-quill.recipe.json')
    const twice = await tinker('ship', maren, maren, '--target', 'far', '--out', at('twice'))
    expect([twice.code, twice.err.includes('maren-quill.glb')]).toEqual([1, true])
    expect(inside('twice')).toEqual(['far/maren-quill.glb'])
    const none = await tinker('ship', maren, at('nothing.json'), '--out', at('nothing'))
    expect([none.code, existsSync(at('nothing'))]).toEqual([1, false])
    const odd = await tinker('ship', maren, few(1), '--folders', '{boat}', '--out', at('odd'))
    expect([odd.code, odd.err.includes('{boat}'), existsSync(at('odd'))]).toEqual([1, true, false])
  })
})

describe('tinker learn', () => {
  it('makes of a file of a game a target, to which other figures ship by its names', async () => {
    await tinker('ship', at('maren-quill.recipe.json'), '--format', 'bvh', '--out', at('game'))
    const bvh = readFileSync(at('game/maren-quill-walk.bvh'), 'utf8').replace(/\b(ROOT|JOINT) (\w+)/g, '$1 rig_$2')
    writeFileSync(at('game/walk.bvh'), bvh)
    const told = await tinker('learn', at('game/walk.bvh'), '--out', at('game.target.json'), '--match', at('game/match.json'), '--json') // prettier-ignore
    expect([told.code, told.err]).toEqual([0, ''])
    const [line] = told.out.split('\n').map((l) => JSON.parse(l) as { bones: Record<string, string>; unit: number })
    expect(line).toMatchObject({ unit: 1, bones: { hips: 'rig_hips', leftHand: 'rig_leftHand' } })
    expect((await tinker('check', at('game.target.json'))).code).toBe(0)
    const shipped = await tinker('ship', at('tamsin-reke.recipe.json'), '--target', at('game.target.json'), '--out', at('to')) // prettier-ignore
    expect([shipped.code, shipped.err]).toEqual([0, ''])
    const glb = readFileSync(at('to/tamsin-reke.glb')).toString('latin1')
    expect(glb).toContain('"rig_leftHand"')
    expect(glb).not.toContain('"name":"leftHand"')
    expect((await tinker('check', at('to/tamsin-reke.glb'), '--target', at('game.target.json'))).code).toBe(0)
    // what was found once is believed the next time
    const again = await tinker('learn', at('game/walk.bvh'), '--out', at('again.target.json'), '--match', at('game/match.json'), '--id', 'game-two', '--name', 'Game two') // prettier-ignore
    expect(again.code).toBe(0)
    expect(JSON.parse(readFileSync(at('again.target.json'), 'utf8'))).toMatchObject({
      id: 'game-two',
      name: 'Game two',
    })
  })

  it('says what is wrong with a file that it cannot learn from, and writes nothing', async () => {
    writeFileSync(at('odd.bvh'), 'HIERARCHY\nnothing')
    for (const file of ['odd.bvh', 'gone.glb']) {
      const told = await tinker('learn', at(file), '--out', at('odd.target.json'))
      expect([file, told.code, told.err.length > 20]).toEqual([file, 1, true])
    }
    expect(existsSync(at('odd.target.json'))).toBe(false)
  })
})
