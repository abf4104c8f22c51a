import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { By, Key } from 'selenium-webdriver'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { checkShipped, type Mix } from '@idle-tinker/core'
import { glbFaults } from '../../packages/core/src/testing/glbFaults.ts'
import { ShippedFile } from '../../packages/core/src/ship/ShippedFile.ts'
import { Journey } from './browser.ts'

let j: Journey

beforeAll(async () => void (j = await Journey.start()))
afterAll(() => j.stop())

const pictures = () => j.driver.findElements(By.css('[data-test="contact-sheet"] img'))
const idle = () => j.until('idle', async () => (await j.findAll('make')).length === 1)

/** Makes a crowd of so many figures, and waits until all are drawn. */
async function make(count: number): Promise<void> {
  const field = await j.findAt(By.id('count'))
  if ((await field.getAttribute('value')) !== String(count)) {
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), String(count), Key.TAB)
    await j.saved()
  }
  await j.click('make')
  await idle()
  expect(await pictures()).toHaveLength(count)
}

const picture = (i: number) => j.driver.findElement(By.css(`[data-test="variant-${i}"] img`)).getAttribute('src')
const over = async (i: number) =>
  j.driver
    .actions()
    .move({ origin: await j.find(`variant-${i}`) })
    .perform()

describe('a crowd', () => {
  beforeEach(() => j.begin('/crowd'))

  it('of 60 dockers is made under 900 triangles and shipped as a zip of valid GLBs, which is found again after a reload', async () => {
    await make(60)
    const costs = await j.driver.findElements(By.css('[data-test="contact-sheet"] figcaption .triangles'))
    for (const c of costs) expect(Number(await c.getText())).toBeLessThanOrEqual(900)
    expect((await j.text('part-use')).length).toBeGreaterThan(100)
    // the rail shows the crowd, not the figure of the Bench
    expect(await j.text('measured')).toContain('any of 60')
    expect(await j.gauge('triangles')).toBeLessThanOrEqual(900)
    expect(await j.gauge('bones')).toBe(22)
    const ofCrowd = await j.gauge('triangles')
    await j.clickOn(By.css('a.ship'))
    // and so it does where the crowd leaves, until it is the figure that is to
    expect([await j.text('measured'), await j.gauge('triangles')]).toEqual([expect.stringContaining('60'), ofCrowd])
    await j.press('//*[@data-test="what"]//*[contains(text(), "Maren")]')
    await j.until('the figure’s own', async () => (await j.gauge('triangles')) > 900)
    await j.press('//*[@data-test="what"]//*[contains(text(), "Quay at noon")]')
    await j.until('the crowd’s again', async () => (await j.gauge('triangles')) === ofCrowd)
    await j.click('ship-crowd')
    await j.click('download-zip')
    const zip = unzipSync(new Uint8Array(readFileSync(await j.downloaded('.zip'))))
    const names = Object.keys(zip).filter((n) => n.endsWith('.glb'))
    expect(names).toHaveLength(60)
    const table = JSON.parse(new TextDecoder().decode(zip['crowd.json'])) as {
      mix: Mix
      variants: { file: string; nearest: { distance: number } }[]
    }
    expect(table.mix).toMatchObject({ name: 'Quay at noon', count: 60 })
    expect(table.variants.map((v) => v.file).sort()).toEqual([...names].sort())
    expect(table.variants.every((v) => v.nearest.distance > 0)).toBe(true)
    for (const name of names.filter((_, i) => i % 12 === 0)) {
      expect(await glbFaults(zip[name]!)).toEqual([])
      const { facts } = await checkShipped(zip[name]!)
      expect(facts!.triangles).toBeLessThanOrEqual(900)
      expect(facts!.recipe).not.toBeNull()
    }
    expect(await j.text('checks')).toContain('One material, one draw call')
    await j.go('/ship')
    await j.press('//*[@data-test="what"]//*[contains(text(), "Quay at noon")]')
    await j.until('the job', async () => (await j.text('ship-message')).includes('60 figures'))
    await j.find('download-zip')
    expect(await j.errors()).toEqual([])
  })

  it('keeps what is pinned and what was rolled again, also after a reload', async () => {
    await make(8)
    const [first, second] = [await picture(0), await picture(1)]
    await over(1)
    await j.click('reroll-1')
    await j.until('another one', async () => (await picture(1)) !== second)
    await idle()
    expect(await picture(0)).toBe(first)
    const mix = async () =>
      ((await (await fetch(`${j.address}/api/documents/mix`)).json()) as { content: Mix }[]).find(
        (m) => m.content.id === 'quay-at-noon',
      )!.content
    await over(2)
    await j.click('pin-2')
    await j.until('pin and place made anew are saved', async () => {
      const { pins, rerolls } = await mix()
      return pins?.[2] !== undefined && rerolls?.join() === '1'
    })
    const before = [await picture(0), await picture(1), await picture(2)]
    await j.go('/crowd')
    await make(8)
    expect([await picture(0), await picture(1), await picture(2)]).toEqual(before)
  })

  it('shows a figure closely, with what it is made of and what it costs, and brings it to the Bench', async () => {
    await make(6)
    const triangles = (i: number) => j.driver.findElement(By.css(`[data-test="variant-${i}"] .triangles`)).getText()
    await j.click('look-3')
    const costs = async () => (await j.text('variant-costs')).replaceAll(',', '')
    await j.until('its costs', async () => (await costs()).includes(`Triangles\n${await triangles(3)} / 900`))
    const sides = () => j.driver.findElements(By.css('[data-test="variant"] .sides img'))
    await j.until('three sides', async () => (await sides()).length === 3)
    expect(new Set(await Promise.all((await sides()).map((s) => s.getAttribute('src')))).size).toBe(3)
    const worn = await j.text('variant-parts')
    await j.driver.actions().sendKeys(Key.ARROW_RIGHT).perform()
    await j.until('the next one', async () => (await costs()).includes(`Triangles\n${await triangles(4)} / 900`))
    expect(await j.text('variant-parts')).not.toBe(worn)
    await j.driver.actions().sendKeys(Key.ARROW_LEFT).perform()
    await j.until('the one before', async () => (await j.text('variant-parts')) === worn)
    await j.click('variant-to-bench')
    await j.until('the Bench', async () => (await j.text('figure-name')).startsWith('Quay at noon 4'))
    const feet = /Feet\n(.*)/.exec(worn)![1]!.trim()
    expect(await j.text('part-feet')).toBe(feet)
    expect(await j.errors()).toEqual([])
  })

  it('shows its pictures as large as one likes, also the next time', async () => {
    await make(6)
    const width = async () => (await (await pictures())[0]!.getRect()).width
    const before = await width()
    const handle = await (await j.find('picture-size')).findElement(By.css('[role=slider]'))
    await handle.sendKeys(Key.END)
    await j.until('large', async () => (await width()) > before * 1.5)
    const large = await width()
    // as many pixels as are shown
    expect(
      await j.driver.executeScript('return arguments[0].naturalWidth', (await pictures())[0]!),
    ).toBeGreaterThanOrEqual(large)
    await j.go('/crowd')
    await make(6)
    expect(await width()).toBe(large)
  })

  it('draws its faces from a set', async () => {
    await make(6)
    const still = await picture(0)
    await j.click('faces')
    for (const face of ['shouting', 'glad']) {
      const field = await j.findAt(By.css(`[data-test="face-${face}"] input`))
      await field.sendKeys(Key.chord(Key.CONTROL, 'a'), '1', Key.TAB)
    }
    await j.until('a set', async () => (await j.text('faces')).includes('Drawn from a set'))
    await j.saved()
    await make(6)
    expect(await picture(0)).not.toBe(still)
    await j.click('undo')
    await j.click('undo')
    await j.until('all at rest', async () => (await j.text('faces')).includes('All at rest'))
  })

  it('takes in another kind of figure by its share, shows its rules, and lets it go again', async () => {
    await make(6)
    await j.click('add-kind')
    await j.press('//*[@role="menuitem"][contains(., "Gulper")]')
    await j.until('its rules', async () => (await j.findAll('shares-teeth')).length === 1)
    expect(await j.findAll('shares-hat')).toHaveLength(0)
    const share = await j.findAt(By.css('[aria-label="Share of Gulper"] input, input[aria-label="Share of Gulper"]'))
    await share.sendKeys(Key.chord(Key.CONTROL, 'a'), '2', Key.TAB)
    await j.saved()
    await make(6)
    const { mix } = await j.driver.executeAsyncScript<{ mix: Mix }>(
      'const done = arguments[0]; fetch("/api/documents/mix").then((r) => r.json()).then((all) => done({ mix: all.find((m) => m.content.id === "quay-at-noon").content }))',
    )
    expect(mix.kinds.map((k) => [k.id, k.share])).toEqual([
      ['human', 1],
      ['gulper', 2],
    ])
    // the rules of the first are there again
    await j.click('kind-human')
    await j.until('the first’s rules', async () => (await j.findAll('shares-hat')).length === 1)
    await j.click('remove-kind-gulper')
    await j.until('one kind', async () => !(await (await j.find('kind-human')).isDisplayed()))
    await j.click('undo')
    await j.until('both again', async () => (await j.find('kind-gulper')).isDisplayed())
    expect(await j.errors()).toEqual([])
  })

  it('of a mix of one’s own is made, renamed, put away and brought back', async () => {
    await j.click('mix-name')
    await j.click('new-mix-ottern')
    await j.until('the new mix', async () => (await j.text('mix-name')).startsWith('New crowd of ottern'))
    await j.click('rename')
    await (await j.find('rename-field')).sendKeys('Low tide', Key.ENTER)
    await j.until('its name', async () => (await j.text('mix-name')).startsWith('Low tide'))
    await j.saved()
    await make(5)
    await j.click('mix-name')
    await j.clickOn(By.css('[aria-label="Delete Low tide"]'))
    await j.until('another mix', async () => (await j.text('mix-name')).startsWith('Quay at noon'))
    await j.clickOn(By.css('[aria-label="Bring back Low tide"]'))
    await j.press('//div[@data-test="mix-list"]//button[contains(., "Low tide")]')
    await j.until('it again', async () => (await j.text('mix-name')).startsWith('Low tide'))
    expect(await j.errors()).toEqual([])
  })

  it('undoes on Crowd what was done there, and nothing on the Bench', async () => {
    await j.walk('/bench')
    await j.click('shuffle-hair')
    await j.until('an edit to undo', async () => (await j.find('undo')).isEnabled())
    await j.saved()
    const hair = await j.text('part-hair')
    await j.walk('/crowd')
    const seed = async () => (await j.findAt(By.id('seed'))).getAttribute('value')
    const before = await seed()
    await (await j.findAt(By.id('seed'))).sendKeys(Key.chord(Key.CONTROL, 'a'), '4321', Key.TAB)
    await j.saved()
    expect(await seed()).toBe('4321')
    await j.driver.executeScript('document.activeElement.blur()')
    const undo = () => j.driver.actions().keyDown(Key.CONTROL).sendKeys('z').keyUp(Key.CONTROL).perform()
    await undo()
    await j.until('the seed of before', async () => (await seed()) === before)
    await j.until('nothing more to undo', async () => !(await (await j.find('undo')).isEnabled()))
    await undo()
    await j.walk('/bench')
    expect(await j.text('part-hair')).toBe(hair)
    await j.until('the figure’s own steps', async () => (await j.find('undo')).isEnabled())
  })

  it('stops while it is chosen and while it is drawn, and the workers are free for the next at once', async () => {
    const field = await j.findAt(By.id('count'))
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), '2000', Key.TAB)
    await j.click('make')
    const share = async () =>
      Number(
        await j.driver.findElement(By.css('[data-test="progress"] [role=progressbar]')).getAttribute('aria-valuenow'),
      )
    await j.until('some of it', async () => (await share()) > 5)
    await j.click('cancel')
    await idle()
    expect(await pictures()).toHaveLength(0)
    const start = Date.now()
    await make(4)
    // to choose 2,000 takes longer than this, and would keep one worker from the four
    expect(Date.now() - start).toBeLessThan(15_000)
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), '300', Key.TAB)
    await j.click('make')
    await j.until('the first ones', async () => (await pictures()).length > 4)
    await j.click('cancel')
    await idle()
    const there = (await pictures()).length
    expect(there).toBeLessThan(300)
    await j.driver.sleep(1500)
    expect((await pictures()).length).toBeLessThanOrEqual(there + 1)
  })
})

describe('Ship', () => {
  beforeEach(() => j.begin('/ship'))

  const ship = async () => {
    const before = readdirSync(j.downloads)
    await j.until('the figure', async () => (await j.find('ship-figure')).isEnabled())
    await j.click('ship-figure')
    return new Uint8Array(readFileSync(await j.downloaded('.glb', before)))
  }

  const value = async () => (await j.findAt(By.id('limit-triangles'))).getAttribute('value')
  const limit = async (triangles: string) =>
    (await j.findAt(By.id('limit-triangles'))).sendKeys(Key.chord(Key.CONTROL, 'a'), triangles, Key.TAB)

  it('ships one figure by itself', async () => {
    const bytes = await ship()
    expect(await glbFaults(bytes)).toEqual([])
    expect((await checkShipped(bytes)).problems).toEqual([])
  })

  it('makes a target of one’s own, ships to it, takes it away and brings it back', async () => {
    const first = await j.text('ship-target')
    await j.click('edit-target')
    await j.click('copy-target')
    await j.until('a second target', async () => (await j.text('ship-target')) !== first)
    const own = await j.text('ship-target')
    await limit('1200')
    await j.saved()
    expect(await j.text('gauge-triangles')).toContain('/ 1,200')
    // of what figures can play, a wave besides what always goes along
    await j.click('keep-clips')
    await j.press('//li[@role="option"][normalize-space()="Wave"]')
    await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    await j.saved()
    const bytes = await ship()
    expect(new ShippedFile(bytes).clips().map((c) => c.name)).toEqual(['Idle', 'Walk', 'Wave'])
    const { facts } = await checkShipped(bytes)
    expect(facts!.triangles).toBeLessThanOrEqual(1200)
    expect(facts!.triangles).toBeGreaterThan(1000)
    await j.click('delete-target')
    await j.until('the first again', async () => (await j.text('ship-target')) === first)
    await j.press(`//*[@data-test="deleted-targets"]//button[contains(., "${own}")]`)
    await j.until('it again', async () => (await j.text('ship-target')) === own)
  })

  it('takes changed limits back step by step, and those alone, keeps them over a reload and tells of another window’s', async () => {
    const limits = async () => (await j.text('gauge-triangles')).split('/')[1]!.trim()
    const first = await limits()
    await j.click('edit-target')
    expect(await j.text('open-target')).toContain(await j.text('ship-target'))
    await limit('1200')
    await limit('1100')
    await j.until('held', async () => (await limits()) === '1,100')
    await j.click('undo')
    await j.until('one step back', async () => (await limits()) === '1,200')
    await j.click('undo')
    await j.until('both', async () => (await limits()) === first)
    expect(await (await j.find('undo')).isEnabled()).toBe(false)
    await j.click('redo')
    await j.saved()
    // emptied, a field shows again what holds
    const field = await j.findAt(By.id('limit-triangles'))
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.DELETE, Key.TAB)
    await j.until('what holds', async () => (await value()) === '1,200')
    const name = await j.find('target-name')
    const named = await name.getAttribute('value')
    await name.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.DELETE, Key.TAB)
    await j.until('its name', async () => (await name.getAttribute('value')) === named)
    // the figure has steps of its own
    await j.click('edit-target')
    expect([await j.findAll('open-target'), await (await j.find('undo')).isEnabled()]).toEqual([[], false])
    await j.go('/ship')
    await j.until('kept', async () => (await limits()) === '1,200')
    await j.click('edit-target')
    type Row = { id: string; version: number; content: { limits: object } }
    const rows = (await (await fetch(`${j.address}/api/documents/target`)).json()) as Row[]
    const row = rows.find((r) => (r.content.limits as { triangles: number }).triangles === 1200)!
    const content = { ...row.content, limits: { ...row.content.limits, triangles: 1300 } }
    await fetch(`${j.address}/api/documents/target/${row.id}`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ version: row.version, content, token: crypto.randomUUID(), after: [] }),
    })
    await limit('1150')
    await j.until('told', async () => (await j.text('save-state')) === 'Changed in another window')
    await j.press('//button[contains(., "Take theirs")]')
    await j.until('theirs', async () => (await limits()) === '1,300' && (await value()) === '1,300')
    await j.saved()
    expect((await j.errors()).filter((e) => !/409/.test(e))).toEqual([])
  })

  it('opens a shipped file as a figure again, and says what is wrong with one that is none', async () => {
    const shipped = join(j.downloads, 'shipped.glb')
    writeFileSync(shipped, await ship())
    const broken = join(j.downloads, 'broken.glb')
    writeFileSync(broken, readFileSync(shipped).subarray(0, 3000))
    await j.click('figure-name')
    const rows = async () => (await j.driver.findElements(By.css('[data-test="figure-list"] button.pick'))).length
    const before = await rows()
    await (await j.find('open-file')).sendKeys(broken)
    await j.until('the reason', async () => (await j.text('figure-message')).includes('cannot be read'))
    expect(await rows()).toBe(before)
    await (await j.find('open-file')).sendKeys(shipped)
    await j.until('one more', async () => {
      const list = (await (await fetch(`${j.address}/api/documents/figure`)).json()) as { name: string }[]
      return list.length === before + 1
    })
  })
})
