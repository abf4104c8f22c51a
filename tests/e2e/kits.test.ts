import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { WebIO } from '@gltf-transform/core'
import { decode, encode } from 'fast-png'
import { zipSync } from 'fflate'
import { By, Key } from 'selenium-webdriver'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { Builder, checkShipped, healthOf, newRecipe, newTarget, readPack } from '@idle-tinker/core'
import { demoKit, wear } from '../../packages/core/src/testing/demoKits.ts'
import { foreignFigure } from '../../packages/core/src/testing/foreignFigure.ts'
import { scrambled } from '../../packages/core/src/testing/scrambledPack.ts'
import { Journey } from './browser.ts'

let j: Journey

beforeAll(async () => void (j = await Journey.start()))
afterAll(() => j.stop())
beforeEach(() => j.begin('/kits'))

/** A kit of a person's own as a zip: the creatures under another name. */
function reef(kitVersion: string): string {
  const folder = join(process.cwd(), 'kits/tide-creatures')
  const files: Record<string, Uint8Array> = {}
  for (const path of readdirSync(folder, { recursive: true, encoding: 'utf8' }))
    if (/\.(json|glb)$/.test(path)) files[path] = new Uint8Array(readFileSync(join(folder, path)))
  const manifest = JSON.parse(new TextDecoder().decode(files['kit.json'])) as object
  files['kit.json'] = new TextEncoder().encode(
    JSON.stringify({ ...manifest, id: 'reef-creatures', name: 'Reef creatures', kitVersion }),
  )
  const path = join(j.downloads, `reef-${kitVersion}.zip`)
  writeFileSync(path, zipSync(files))
  return path
}

/** A box beside a person that lies on the back, in centimetres; its lid is turned in, and all its sides are painted. */
function crate(): Record<string, Uint8Array> {
  const places = [0, 1, 2, 3, 4, 5, 6, 7].map((c) => `v ${c & 1 ? 70 : 55} ${c & 2 ? 8 : -7} ${c & 4 ? 95 : 80}`)
  const faces = ['1 3 4 2', '5 6 8 7', '1 2 6 5', '3 4 8 7', '1 5 7 3', '2 4 8 6']
  const corners = ['vt 0 0', 'vt 1 0', 'vt 1 1', 'vt 0 1', 'usemtl boards']
  const face = (line: string) => `f ${line.split(' ').map((v, i) => `${v}/${i + 1}`).join(' ')}` // prettier-ignore
  const text = (lines: readonly string[]) => new TextEncoder().encode(lines.join('\n'))
  // from dark to light: no two rows are of one color
  const data = Uint8Array.from({ length: 32 * 32 * 3 }, (_, i) => (i % 3 === 2 ? 40 : 40 + Math.floor(i / 96) * 6))
  return {
    'crate.obj': text(['mtllib crate.mtl', 'o crate', ...places, ...corners, ...faces.map(face)]),
    'crate.mtl': text(['newmtl boards', 'Kd 1 1 1', 'map_Kd boards.png']),
    'boards.png': new Uint8Array(encode({ width: 32, height: 32, data, channels: 3 })),
  }
}

/** How many pixels of a file's picture are redder than anything that is worn here, the darkest of them and the lightest. */
async function redOf(glb: Uint8Array): Promise<{ count: number; from: number; to: number }> {
  const document = await new WebIO().readBinary(glb)
  const { data, channels } = decode(document.getRoot().listTextures()[0]!.getImage()!)
  const reds: number[] = []
  for (let i = 0; i < data.length; i += channels)
    if (data[i]! > 2.5 * data[i + 1]! && data[i]! > 5 * data[i + 2]!) reds.push(data[i]!)
  return { count: reds.length, from: Math.min(...reds), to: Math.max(...reds) }
}

const hashes = async () =>
  Object.fromEntries(
    ((await (await fetch(`${j.address}/api/kits`)).json()) as { id: string; hash: string }[]).map((k) => [
      k.id,
      k.hash,
    ]),
  )

/** Another window gives a kit another name. */
async function elsewhere(id: string, name: string): Promise<{ hash: string }> {
  const manifest = (await (await fetch(`${j.address}/api/kits/${id}/kit.json`)).json()) as object
  const body = zipSync({ 'kit.json': new TextEncoder().encode(JSON.stringify({ ...manifest, name })) })
  const headers = { 'if-match': `"${(await hashes())[id]}"` }
  const answer = await fetch(`${j.address}/api/kits/${id}/changes`, {
    method: 'POST',
    headers,
    body: body as Uint8Array<ArrayBuffer>,
  })
  return (await answer.json()) as { hash: string }
}

const add = async (path: string) => (await j.find('add-kit')).sendKeys(path)

describe('Kits', () => {
  it('shows what is in each kit, with pictures', async () => {
    await j.click('kit-tide-creatures')
    await j.until('pictures', async () => (await j.driver.findElements(By.css('.parts img'))).length >= 10)
    expect(await j.errors()).toEqual([])
  })

  it('takes a kit of one’s own: its parts are shown, and figures are made from it', async () => {
    await add(reef('1.0.0'))
    await j.until('it', async () => (await j.text('kit-reef-creatures')).startsWith('Reef creatures'))
    await j.until('pictures', async () => (await j.driver.findElements(By.css('.parts img'))).length >= 10)
    await j.click('figure-name')
    const buttons = await j.findAll('new-ottern')
    expect(buttons).toHaveLength(2)
    await buttons[1]!.click()
    await j.until('an ottern', async () => (await j.text('figure-name')).startsWith('New ottern'))
    await j.go('/bench')
    expect(await j.gauge('triangles')).toBeGreaterThan(1000)
    expect(await j.errors()).toEqual([])
  })

  it('asks before a kit takes the place of another, and before one is removed', async () => {
    await add(reef('1.0.0'))
    await j.find('kit-reef-creatures')
    await add(reef('2.0.0'))
    await j.until('the question', async () => (await j.text('kit-message')).includes('Nothing was replaced'))
    expect(await j.text('kit-reef-creatures')).toContain('1.0.0')
    await j.click('replace-kit')
    await j.until('the newer one', async () => (await j.text('kit-reef-creatures')).includes('2.0.0'))
    await j.click('kit-reef-creatures')
    await j.click('remove-kit')
    await j.click('remove-kit-sure')
    await j.until('it gone', async () => (await j.findAll('kit-reef-creatures')).length === 0)
    await j.walk('/bench')
    expect(await j.gauge('triangles')).toBeGreaterThan(1000)
    // the refusal is all that went wrong
    expect((await j.errors()).filter((e) => !e.includes('409'))).toEqual([])
  })

  it('tells whom a kit’s going concerns, keeps them openable, and brings it back', async () => {
    await j.click('kit-tide-creatures')
    await j.click('remove-kit')
    const asked = async () => (await j.findAt(By.css('[role="alertdialog"]'))).getText()
    await j.until('what goes', async () => (await asked()).includes('“Tick”'))
    const said = await asked()
    for (const name of ['Tick', 'Long Annie', 'Tide folk arriving']) expect(said).toContain(`“${name}”`)
    expect(said).not.toContain('Maren Quill')
    await j.click('remove-kit-sure')
    await j.until('it gone', async () => (await j.findAll('kit-tide-creatures')).length === 0)
    await j.click('figure-name')
    await j.press('//button[contains(@class, "pick")][contains(., "Tick")]')
    await j.walk('/bench')
    await j.until('why', async () =>
      (await (await j.findAt(By.css('main, #__nuxt'))).getText()).includes('tide-creatures'),
    )
    await j.walk('/kits')
    await j.click('bring-back-tide-creatures')
    await j.find('kit-tide-creatures')
    await j.walk('/bench')
    await j.until('it stands', async () => (await j.gauge('triangles')) > 1000)
  })

  it('finds parts of all kits by words, fit and tag, and opens the page of one', async () => {
    await j.click('all-parts')
    const count = () => j.text('shelf-count')
    await j.until('all', async () => /^(\d+) of \1$/.test(await count()))
    const all = Number((await count()).split(' ')[0])
    await j.click('shelf-fits')
    await j.press('//li[normalize-space()="Ottern"]')
    await j.until('fewer', async () => Number((await count()).split(' ')[0]) < all)
    const fit = Number((await count()).split(' ')[0])
    await (await j.find('shelf-words')).sendKeys('tail')
    await j.until('fewer yet', async () => Number((await count()).split(' ')[0]) < fit)
    await (await j.find('shelf-words')).sendKeys(Key.chord(Key.CONTROL, 'a'), 'no such thing')
    await j.until('none', async () => (await count()) === `0 of ${all}`)
    await (await j.find('shelf-words')).sendKeys(Key.chord(Key.CONTROL, 'a'), Key.DELETE)
    await j.click('shelf-fits')
    await j.press('//li[normalize-space()="Any body"]')
    await (await j.find('shelf-words')).sendKeys('quay coat')
    await j.click('part-coat-quay')
    await j.until('its cost', async () => /Triangles\s+1\d{3}/.test(await j.text('part-cost')))
    expect(await j.text('part-users')).toContain('Maren Quill')
    const shown = async () => Number(await (await j.find('kit-stage')).getAttribute('data-frames'))
    const before = await shown()
    await j.click('region-coat-lining')
    await j.until('the lining shown', async () => (await shown()) > before)
    expect(await (await j.find('region-coat-lining')).getAttribute('aria-pressed')).toBe('true')
    await j.press('//*[@data-test="part-users"]//button[normalize-space()="Maren Quill"]')
    await j.until('on the Bench', async () => (await j.driver.getCurrentUrl()).endsWith('/bench'))
    expect(await j.errors()).toEqual([])
  })

  it('changes a part’s rules and file, tells at once what is wrong, saves a version, and goes back to the one before', async () => {
    await (await j.find('shelf-words')).sendKeys('quay coat')
    await j.click('part-coat-quay')
    const field = async (test: string) => (await j.find(test)).findElement(By.css('input')).catch(() => j.find(test))
    const write = async (test: string, text: string) =>
      (await field(test)).sendKeys(Key.chord(Key.CONTROL, 'a'), text, Key.TAB)
    await write('rule-name', 'Harbor coat')
    await write('rule-layer', '8')
    await j.find('draft-bar')
    await j.until('its name', async () => (await j.text('part-page')).includes('Harbor coat'))
    // what is no part is said at once, and cannot be saved
    await j.press('//*[@data-test="kit-side"]//button[normalize-space()="kit.json"]')
    const text = await j.find('kit-text')
    expect(await text.getAttribute('value')).toContain('"Harbor coat"')
    await text.sendKeys(Key.chord(Key.CONTROL, Key.END), '}')
    await j.until('what is wrong', async () => (await j.text('draft-problems')).includes('JSON'))
    expect(await (await j.find('draft-save')).isEnabled()).toBe(false)
    await text.sendKeys(Key.BACK_SPACE)
    await j.until('right again', async () => (await (await j.find('draft-save')).isEnabled()) === true)
    // it is still there when the page is loaded anew
    await j.go('/kits')
    await j.find('draft-bar')
    await j.click('draft-save')
    await j.until('saved', async () => (await j.findAll('draft-bar')).length === 0)
    await j.until('a version on', async () => /\b2\.\d+\.1\b/.test(await j.text('kit-saltwick-folk')))
    await (await j.find('shelf-words')).sendKeys('harbor coat')
    await j.click('part-coat-quay')
    // a file that is none is told, and what stands stands
    const odd = join(j.downloads, 'odd.glb')
    writeFileSync(odd, 'no model at all')
    await (await j.find('replace-file')).sendKeys(odd)
    await j.until('why not', async () => (await j.text('draft-problems')).includes('parts/coat-quay.glb'))
    expect(await (await j.find('draft-save')).isEnabled()).toBe(false)
    await j.click('draft-drop')
    // another coat in its place: whoever has it on wears that
    await (await j.find('replace-file')).sendKeys(join(process.cwd(), 'kits/saltwick-folk/parts/coat-oilskin.glb'))
    await j.until('it can be saved', async () => (await j.find('draft-save')).isEnabled())
    await j.click('draft-save')
    await j.until('saved', async () => (await j.findAll('draft-bar')).length === 0)
    await j.walk('/bench')
    await j.until('Maren in it', async () => (await j.text('part-over')) === 'Harbor coat')
    await j.walk('/kits')
    await j.click('kit-versions')
    await j.press('(//*[@data-test="versions"]//button)[last()]')
    await j.until('as it was', async () => /\b2\.\d+\.0\b/.test(await j.text('kit-saltwick-folk')))
    await j.walk('/bench')
    await j.until('the coat of before', async () => (await j.text('part-over')).startsWith('Quay'))
    expect(await j.errors()).toEqual([])
  })

  it('says when a kit was saved elsewhere, and saves over it only when told to', async () => {
    await j.click('kit-tide-creatures')
    await j.click('rename-kit')
    await (await j.find('rename-kit-field')).sendKeys(Key.chord(Key.CONTROL, 'a'), 'Mine', Key.ENTER)
    await j.find('draft-bar')
    // another window saves it meanwhile
    const { hash } = await elsewhere('tide-creatures', 'Theirs')
    await j.click('draft-save')
    await j.until('told', async () => (await j.text('draft-said')).includes('another window'))
    await j.find('draft-stale')
    expect(await (await j.find('draft-save')).isEnabled()).toBe(false)
    expect((await hashes())['tide-creatures']).toBe(hash)
    await j.click('draft-rebase')
    await j.until('it can', async () => (await j.find('draft-save')).isEnabled())
    await j.click('draft-save')
    await j.until('saved', async () => (await j.text('kit-tide-creatures')).startsWith('Mine'))
    // the refusal is all that went wrong
    expect((await j.errors()).filter((e) => !e.includes('409'))).toEqual([])
  })

  it('tries a part of another body on, and the figure wears it', async () => {
    await j.click('figure-name')
    await j.click('new-ottern')
    await j.until('an ottern', async () => (await j.text('figure-name')).startsWith('New ottern'))
    await j.walk('/bench')
    await j.until('it stands', async () => (await j.gauge('triangles')) > 1000)
    // a coat has no place on it so far
    expect(await j.findAll('row-over')).toHaveLength(0)
    await j.clickOn(By.css('[data-test="other-bodies"] summary'))
    await j.clickOn(By.css('[data-test="other-bodies"] [data-test="choice-coat-quay"]'))
    await j.until('how it went', async () => /Went\s+\d+ mm/.test(await j.text('refit-report')))
    const doubt = async () => /Doubtful\s+([\d.]+) %/.exec(await j.text('refit-report'))![1]
    const first = await doubt()
    await j.press('//*[@data-test="refit-shown"]//button[normalize-space()="Doubtful places"]')
    const looser = await (await j.find('refit-looser')).findElement(By.css('input'))
    await looser.sendKeys(Key.chord(Key.CONTROL, 'a'), '30', Key.TAB)
    await j.until('otherwise', async () => (await doubt()) !== first)
    await j.click('refit-keep')
    await j.until('worn', async () => (await j.text('part-over')).startsWith('Quay'))
    await j.saved()
    await j.walk('/kits')
    expect(await j.text('kit-saltwick-folk-on-tide-creatures-ottern')).toContain('1 part')
    // a second one joins it there
    await j.click('kit-saltwick-folk')
    await (await j.find('shelf-words')).sendKeys('oilskin')
    await j.click('part-coat-oilskin')
    await j.click('try-ottern')
    await j.until('how it went', async () => /Went\s+\d+ mm/.test(await j.text('refit-report')))
    await j.click('refit-keep')
    await j.until('two of them', async () =>
      (await j.text('kit-saltwick-folk-on-tide-creatures-ottern')).includes('2 parts'),
    )
    expect(await j.errors()).toEqual([])
  })

  it('leaves things as they are when one thinks better of it', async () => {
    await j.click('kit-tide-creatures')
    await j.click('remove-kit')
    await j.press('//button[contains(., "Keep it")]')
    await j.until('no question', async () => (await j.driver.findElements(By.css('[role="alertdialog"]'))).length === 0)
    await j.go('/kits')
    await j.find('kit-tide-creatures')
  })

  it('takes loose models of another unit and lying on their back, sorts them, and figures and crowds wear them', async () => {
    const ids = ['coat-quay', 'boots-sea', 'lantern', 'hat-tall', 'trousers', 'shirt-work', 'gloves', 'brows-arched']
    const folk = await demoKit('saltwick-folk')
    const files = await scrambled(folk, ids, 'z -y', 'cm')
    const path = join(j.downloads, 'harbor set.zip')
    writeFileSync(
      path,
      zipSync({
        ...Object.fromEntries(files),
        ...crate(),
        'odd.glb': new TextEncoder().encode('no model at all'),
      }),
    )
    await j.beforeEachPage(
      'window.workers = []; window.Worker = class extends Worker { constructor(u, o) { super(u, o); window.workers.push([o?.name, this]) } }',
    )
    await j.go('/kits')
    await (await j.find('add-pack')).sendKeys(path)
    // it may be stopped, and begun again
    await j.click('pack-stop')
    await j.until('told', async () => (await j.text('pack-problems')).includes('It was stopped.'))
    await j.press('//button[normalize-space()="Leave it"]')
    await (await j.find('add-pack')).sendKeys(path)
    expect(await j.text('pack-counts')).toContain('9 pieces.')
    // a lid that is turned in: shown as found and as mended, which is done unless a person will not have it
    expect(await j.text('pack-health')).toContain('1 with faults, mended.')
    const health = By.xpath('//button[@data-test="health"][normalize-space()="Mended" or contains(., "fault")]')
    const saysHealth = async () => (await j.findAt(health)).getText()
    await j.until('it is mended', async () => (await saysHealth()) === 'Mended')
    await j.clickOn(health)
    expect(await j.text('piece-health')).toContain('2 triangles are turned against the rest')
    const seen = async () =>
      Promise.all(
        (await j.driver.findElements(By.css('[data-test="piece-health"] img'))).map((i) => i.getAttribute('src')),
      )
    await j.until('both pictures', async () => new Set(await seen()).size === 2)
    const mended = (await seen())[1]
    const tick = await j.find('mend-faces-against')
    await tick.findElement(By.css('input')).click()
    await j.until('as found', async () => (await saysHealth()) === '1 fault' && (await seen())[1] !== mended)
    await tick.findElement(By.css('input')).click()
    await j.until('mended again', async () => (await seen())[1] === mended)
    // the original stays as it is, and can be had: lying on its back, in centimetres, its lid turned in
    const had = readdirSync(j.downloads)
    await j.click('download-piece')
    const found = await readPack(
      new Map([['crate.glb', new Uint8Array(readFileSync(await j.downloaded('.glb', had)))]]),
    )
    const [original] = found.value!.pieces
    expect(Math.max(...original!.positions)).toBe(95)
    expect(healthOf(original!).map((f) => f.code)).toContain('faces-against')
    await j.clickOn(health)
    expect(await j.text('pack-problems')).toContain('odd.glb')
    expect([await j.text('pack-up'), await j.text('pack-front'), await j.text('pack-unit')]).toEqual(['z', '-y', 'cm'])
    // what it is unsure of comes first; the lantern goes to the other hand
    const rows = async () => Promise.all((await j.findAll('pack-piece')).map((row) => row.getText()))
    const shares = (await rows()).map((row) => Number(/(\d+) %/.exec(row)![1]))
    expect(shares).toEqual([...shares].sort((a, b) => a - b))
    const row = async (name: string) =>
      (await j.findAll('pack-piece'))[(await rows()).findIndex((text) => text.includes(name))]!
    await (await row('crate')).findElement(By.css('[data-test="rename-piece"]')).click()
    await (await j.find('rename-piece-field')).sendKeys('Fish box', Key.ENTER)
    await j.until('its name', async () => (await rows()).some((text) => text.includes('Fish box')))
    // another kit is not gone to by mistake
    await j.click('kit-tide-creatures')
    await j.press('//button[normalize-space()="Stay"]')
    await j.until('they stay', async () => (await j.findAll('leave-pack')).length === 0)
    expect(await j.findAll('pack-piece')).toHaveLength(9)
    // two at once: the lantern goes to the other hand, and so does the crate
    for (const name of ['m002', 'crate'])
      await (await row(name)).findElement(By.css('[data-test="mark"] input')).click()
    await j.until('both marked', async () => (await j.text('together')).includes('2 marked'))
    await j.click('marked-slot')
    await j.press('//li[normalize-space()="Right hand"]')
    await j.until('both chosen', async () => (await rows()).filter((text) => text.includes('chosen')).length === 2)
    expect((await j.findAll('together')).length).toBe(0)
    // their unit is another for a moment, and what was chosen stands
    await j.click('pack-unit')
    await j.press('//li[normalize-space()="inch"]')
    await j.until(
      'larger',
      async () => (await j.text('pack-unit')) === 'inch' && (await j.findAll('pack-busy')).length === 0,
    )
    await j.click('pack-unit')
    await j.press('//li[normalize-space()="cm"]')
    await j.until(
      'as before',
      async () => (await j.text('pack-unit')) === 'cm' && (await j.findAll('pack-busy')).length === 0,
    )
    expect((await rows()).filter((text) => text.includes('chosen'))).toHaveLength(2)
    // their worker ends: they are read again, and are what they were
    await j.driver.executeScript(
      'for (const [name, w] of window.workers) if (name === "pack") w.dispatchEvent(new ErrorEvent("error", { message: "no memory" }))',
    )
    await j.findAt(By.css('.p-toast-message'))
    await j.click('pack-make')
    await j.until('the kit', async () => (await j.text('kit-harbor-set')).includes('9 parts'))
    await j.until('pictures', async () => (await j.driver.findElements(By.css('.parts img'))).length > 4)
    await (await j.find('shelf-words')).sendKeys('fish box')
    await j.until('the one', async () => (await j.text('shelf-count')) === '1 of 9')

    await j.walk('/bench')
    await j.clickOn(By.css('[data-test="row-over"] .main'))
    await j.click('choice-m000')
    await j.until('their coat', async () => (await j.text('part-over')) === 'M000')
    await j.clickOn(By.css('[data-test="row-right-hand"] .main'))
    await j.click('choice-m002')
    await j.until('their lantern', async () => (await j.text('part-right-hand')) === 'M002')
    // the crate keeps what it is painted with, in another color
    await j.click('choice-fish-box')
    await j.until('their crate', async () => (await j.text('part-right-hand')) === 'Fish box')
    const paint = await j.findAt(By.css('[data-test^="color-harbor-set-"] input'))
    await j.driver.executeScript(
      'arguments[0].value = "#d04010"; for (const e of ["input", "change"]) arguments[0].dispatchEvent(new Event(e))',
      paint,
    )
    await j.saved()
    await j.walk('/ship')
    const before = readdirSync(j.downloads)
    await j.until('the figure', async () => (await j.find('ship-figure')).isEnabled())
    await j.click('ship-figure')
    const shipped = new Uint8Array(readFileSync(await j.downloaded('.glb', before)))
    expect((await checkShipped(shipped)).problems).toEqual([])
    const red = await redOf(shipped)
    expect(red.count).toBeGreaterThan(50)
    // from the first board to the last
    expect(red.to).toBeGreaterThan(2 * red.from)
    await j.walk('/crowd')
    await j.click('mix-name')
    await j.click('new-mix-human')
    await j.until('the new mix', async () => (await j.text('mix-name')).startsWith('New crowd of human'))
    const count = await j.findAt(By.id('count'))
    await count.sendKeys(Key.chord(Key.CONTROL, 'a'), '16', Key.TAB)
    await j.saved()
    await j.click('make')
    await j.until('sixteen of them', async () => /\bM00\d\b/.test(await j.text('part-use')))
    expect(await j.errors()).toEqual([])
  })

  it('says in words what is wrong with models that are none, and takes nothing', async () => {
    await (await j.find('add-pack')).sendKeys(join(process.cwd(), 'package.json'))
    await j.until('the reason', async () => (await j.text('pack-problems')).includes('No model was found'))
    expect(await (await j.find('pack-make')).isEnabled()).toBe(false)
    await j.press('//button[contains(., "Leave it")]')
    await j.until('the kit again', async () => (await j.driver.findElements(By.css('.parts'))).length === 1)
    // dropped on the page
    await j.driver.executeScript(`
      const dropped = new DataTransfer()
      dropped.items.add(new File(['v 0 0 0\\nv 1 0 0\\nv 0 1 0\\nf 1 2 3\\n'], 'sheet.obj'))
      document.querySelector('.kits').dispatchEvent(new DragEvent('drop', { dataTransfer: dropped, bubbles: true }))`)
    await j.until('one piece', async () => (await j.text('pack-counts')).startsWith('1 piece.'))
    expect(await j.text('pack-piece')).toContain('sheet')
  })

  it('says in words what is wrong with a file that is no kit', async () => {
    await add(join(process.cwd(), 'package.json'))
    await j.until('the reason', async () => (await j.text('kit-message')).includes('cannot be opened as a zip'))
  })

  it('takes a dressed figure of one mesh apart; it becomes a body with parts, and a figure that wears them ships', async () => {
    const folk = await demoKit('saltwick-folk')
    const recipe = ['coat-quay', 'boots-sea', 'hat-tall', 'trousers'].reduce(
      (r, id) => wear(r, folk, id),
      newRecipe(folk, 'human', 'Somebody'),
    )
    const { figure } = new Builder(new Map([[folk.manifest.id, folk]])).build(recipe, newTarget('any', 'Any'))
    const worn = figure!.pieces.map((piece) => ({ figure: figure!, piece }))
    const path = join(j.downloads, 'stranger.glb')
    const bytes = await foreignFigure(worn, { meshes: 'one', materials: 'pieces', bone: (_, i) => `joint ${i}` })
    writeFileSync(path, bytes)
    await (await j.find('add-pack')).sendKeys(path)
    await j.until('taken apart', async () => (await j.text('taken-apart')).includes('was taken apart into'))
    const rows = async () => (await j.findAll('pack-piece')).length
    const apart = await rows()
    expect(apart).toBeGreaterThan(3)
    expect(await j.text('pack-own')).toContain('A body of its own, dressed')
    await j.click('whole')
    await j.until('whole', async () => (await rows()) === 1)
    await j.click('apart')
    await j.until('apart again', async () => (await rows()) === apart)
    // two of them made one
    for (const box of (await j.findAll('mark')).slice(0, 2)) await box.findElement(By.css('input')).click()
    await j.click('join')
    await j.until('joined', async () => (await rows()) === apart - 1)
    await j.click('pack-make')
    await j.until('the kit', async () => (await j.text('kit-stranger')).includes('1 body'))
    await j.click('figure-name')
    await j.click('new-figure')
    await j.until('a figure of it', async () => (await j.text('figure-name')).startsWith('New'))
    await j.walk('/bench')
    await j.until('it is drawn', async () => (await j.gauge('bones')) > 20)
    const bare = await j.gauge('triangles')
    await j.clickOn(By.css('[data-test="row-over"] .main'))
    await j.clickOn(By.css('[data-test="choices"] [data-test^="choice-"]'))
    await j.until('the coat', async () => (await j.gauge('triangles')) > bare)
    await j.walk('/motion')
    await j.click('clip-walk')
    await j.until('it walks', async () => (await (await j.find('clip-walk')).getAttribute('aria-checked')) === 'true')
    expect(await j.errors()).toEqual([])
  })
})
