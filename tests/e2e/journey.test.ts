import { readdirSync, readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import { By, Key } from 'selenium-webdriver'
import { unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { checkShipped } from '@idle-tinker/core'
import { startWorkshop, type TestWorkshop } from '../workshop.ts'
import { Journey } from './browser.ts'

const validator = createRequire(import.meta.url)('gltf-validator') as { validateBytes(b: Uint8Array): Promise<{ issues: { numErrors: number; numWarnings: number } }> }

let workshop: TestWorkshop
let j: Journey

beforeAll(async () => {
  workshop = await startWorkshop()
  j = await Journey.start()
})

afterAll(async () => {
  await j.stop()
  await workshop.stop()
})

async function downloaded(ending: string): Promise<string> {
  let name: string | undefined
  await j.until(`a ${ending} file`, async () => {
    name = readdirSync(j.downloads).find((f) => f.endsWith(ending))
    return name !== undefined
  })
  return join(j.downloads, name!)
}

// one story, told in order: each step goes on where the last one ended
describe('from the first look to a shipped crowd', () => {
  it('opens with Maren Quill on the Bench', async () => {
    await j.driver.get(workshop.address)
    await j.until('Maren', async () => (await j.text('figure-name')).startsWith('Maren Quill'))
    expect(await j.text('part-over')).toBe('Quay master’s coat')
    expect(await j.gauge('triangles')).toBeGreaterThan(2000)
    await j.drawnSince(0)
  })

  it('swaps her coat from the tray; the budget moves and the edit is saved', async () => {
    const before = await j.gauge('triangles')
    await j.click('row-over')
    await (await j.find('row-over')).findElement(By.css('.main')).click()
    await j.click('choice-jacket-short')
    await j.until('the jacket', async () => (await j.text('part-over')) === 'Pea jacket')
    await j.until('another cost', async () => (await j.gauge('triangles')) !== before)
    await j.saved()
  })

  it('pulls her shoulders wider on the stage; undo and redo go along', async () => {
    const tab = await j.find('pull-shoulders')
    const value = async () => Number(await tab.getAttribute('aria-valuenow'))
    const before = await value()
    const frames = await j.frames()
    await j.driver.actions().move({ origin: tab }).press().move({ origin: tab, x: 25, y: 0 }).move({ origin: tab, x: 20, y: 0 }).release().perform()
    await j.until('wider', async () => (await value()) > before + 0.05)
    await j.drawnSince(frames)
    const wide = await value()
    await j.click('undo')
    await j.until('undone', async () => Math.abs((await value()) - before) < 1e-6)
    await j.click('redo')
    await j.until('redone', async () => Math.abs((await value()) - wide) < 1e-6)
    await j.saved()
  })

  it('moves a slider by keys, fine with Shift', async () => {
    await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    await (await j.find('stage')).sendKeys(Key.ESCAPE)
    const handle = await (await j.find('slider-build')).findElement(By.css('[role=slider]'))
    await handle.sendKeys(Key.ARROW_RIGHT)
    await handle.sendKeys(Key.chord(Key.SHIFT, Key.ARROW_RIGHT))
    await j.until('0.06', async () => (await j.text('slider-build')).includes('0.06'))
  })

  it('locks a slot, shuffles the rest, and undoes that in one step', async () => {
    const coat = await j.text('part-over')
    const before = await Promise.all(['hair', 'hat', 'top', 'legs', 'feet'].map((s) => j.text(`part-${s}`)))
    await j.click('lock-over')
    await j.click('shuffle-all')
    const now = () => Promise.all(['hair', 'hat', 'top', 'legs', 'feet'].map((s) => j.text(`part-${s}`)))
    await j.until('something else', async () => (await now()).join() !== before.join())
    expect(await j.text('part-over')).toBe(coat)
    await j.click('undo')
    await j.until('as before', async () => (await now()).join() === before.join())
  })

  it('clears and shuffles one slot', async () => {
    await j.click('clear-hat')
    await j.until('bare head', async () => (await j.text('part-hat')) === 'No headwear')
    await j.click('shuffle-hat')
    await j.until('a hat', async () => (await j.text('part-hat')) !== 'No headwear')
    await j.saved()
  })

  it('comes back after a reload exactly as it was', async () => {
    const figure = async () => [await j.text('part-over'), await j.text('part-hat'), await j.text('slider-shoulders'), await j.text('slider-build'), await j.gauge('triangles')]
    const before = await figure()
    await j.driver.navigate().refresh()
    await j.until('the same figure', async () => JSON.stringify(await figure()) === JSON.stringify(before))
  })

  it('brings the figure under its limit and back with one switch', async () => {
    const whole = await j.gauge('triangles')
    await j.click('target')
    await j.driver.findElement(By.xpath('//li[contains(., "crowd")]')).click()
    await j.click('reduce')
    await j.until('under 900', async () => (await j.gauge('triangles')) <= 900)
    await j.click('reduce')
    await j.until('whole again', async () => (await j.gauge('triangles')) === whole)
  })

  it('duplicates, renames, deletes and brings back a figure', async () => {
    await j.click('figure-name')
    await j.click('duplicate')
    await j.until('the copy', async () => (await j.text('figure-name')).includes('again'))
    await j.click('rename')
    const field = await j.find('rename-field')
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), 'Pim Sallow', Key.ENTER)
    await j.until('the new name', async () => (await j.text('figure-name')).startsWith('Pim Sallow'))
    await j.saved()
    await j.click('figure-name')
    const row = await j.driver.findElement(By.xpath('//div[@data-test="figure-list"]//div[contains(@class,"row")][.//button[contains(., "Pim Sallow")]]//button[@data-test="delete"]'))
    await row.click()
    await j.until('Maren again', async () => (await j.text('figure-name')).startsWith('Maren Quill'))
    await j.click('restore')
    await j.until('brought back', async () => (await j.text('figure-list')).includes('Pim Sallow'))
  })

  it('plays her walk, scrubs it, and shows bones and weights', async () => {
    await j.driver.get(`${workshop.address}/motion`)
    await j.click('clip-walk')
    await j.click('play')
    const frames = await j.frames()
    await j.drawnSince(frames + 3)
    await j.click('play')
    const time = await j.text('clip-time')
    expect(time).toMatch(/^0\.\d\d s$/)
    await j.click('detail-crowd')
    await j.until('22 bones', async () => (await j.gauge('bones')) === 22)
    await j.click('weights')
    await j.driver.findElement(By.xpath('//li[contains(., "Left upper arm")]')).click()
    await j.drawnSince(frames)
    await j.click('bones')
    expect(await j.errors()).toEqual([])
  })

  it('makes 60 dockers under 900 triangles, pins one, rolls another again', async () => {
    await j.driver.get(`${workshop.address}/crowd`)
    await j.click('make')
    await j.until('60 pictures', async () => (await j.driver.findElements(By.css('[data-test="contact-sheet"] img'))).length === 60)
    const costs = await j.driver.findElements(By.css('[data-test="contact-sheet"] figcaption .soft'))
    for (const c of costs) expect(Number(await c.getText())).toBeLessThanOrEqual(900)
    expect((await j.text('part-use')).length).toBeGreaterThan(100)
    const picture = (i: number) => j.driver.findElement(By.css(`[data-test="variant-${i}"] img`)).getAttribute('src')
    await j.until('idle', async () => (await j.driver.findElements(By.css('[data-test="make"]'))).length === 1)
    const [first, second] = [await picture(0), await picture(1)]
    await j.driver.actions().move({ origin: await j.find('variant-1') }).perform()
    await j.click('reroll-1')
    await j.until('another one', async () => (await picture(1)) !== second)
    expect(await picture(0)).toBe(first)
  })

  it('ships the crowd as a zip of valid GLBs', async () => {
    await j.driver.findElement(By.css('a.ship')).click()
    await j.click('ship-crowd')
    await j.click('download-zip')
    const zip = unzipSync(new Uint8Array(readFileSync(await downloaded('.zip'))))
    const names = Object.keys(zip).filter((n) => n.endsWith('.glb'))
    expect(names).toHaveLength(60)
    for (const name of names.filter((_, i) => i % 12 === 0)) {
      const { issues } = await validator.validateBytes(zip[name]!)
      expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
      const { facts } = await checkShipped(zip[name]!)
      expect(facts!.triangles).toBeLessThanOrEqual(900)
      expect(facts!.recipe).not.toBeNull()
    }
    expect(await j.text('checks')).toContain('One material, one draw call')
  })

  it('ships one figure by itself', async () => {
    await j.driver.get(`${workshop.address}/ship`)
    await j.click('ship-figure')
    const bytes = new Uint8Array(readFileSync(await downloaded('.glb')))
    const { issues } = await validator.validateBytes(bytes)
    expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
    expect((await checkShipped(bytes)).problems).toEqual([])
  })

  it('shows what is in each kit, with pictures', async () => {
    await j.driver.get(`${workshop.address}/kits`)
    await j.click('kit-tide-creatures')
    await j.until('pictures', async () => (await j.driver.findElements(By.css('.parts img'))).length >= 10)
    expect(await j.errors()).toEqual([])
  })
})

describe('when things go wrong', () => {
  it('tells a second window that the first has saved, and loses neither', async () => {
    await j.driver.get(`${workshop.address}/bench`)
    await j.saved()
    await j.gauge('triangles')
    const first = await j.driver.getWindowHandle()
    await j.driver.switchTo().newWindow('tab')
    await j.driver.get(`${workshop.address}/bench`)
    await j.gauge('triangles')
    await j.click('clear-hat')
    await j.saved()
    await j.driver.switchTo().window(first)
    await j.click('shuffle-hair')
    await j.until('told', async () => (await j.text('save-state')) === 'Changed in another window')
    await j.driver.findElement(By.xpath('//button[contains(., "Keep mine as a copy")]')).click()
    await j.until('a copy', async () => (await j.text('figure-name')).includes('(mine)'))
    await j.saved()
  })

  it('keeps edits while the server is away and saves them when it is back', async () => {
    const hair = await j.text('part-hair')
    await j.driver.executeScript('window.realFetch = window.fetch; window.fetch = (...a) => String(a[0]).includes("/api/figures/") ? Promise.reject(new TypeError("away")) : window.realFetch(...a)')
    await j.click('shuffle-hair')
    await j.until('told', async () => (await j.text('save-state')).includes('away'))
    const mine = await j.text('part-hair')
    expect(mine).not.toBe(hair)
    await j.driver.executeScript('window.fetch = window.realFetch')
    await j.saved()
    await j.driver.navigate().refresh()
    await j.until('still there', async () => (await j.text('part-hair')) === mine)
  })

  it('says in words what is wrong with a file that is no kit', async () => {
    await j.driver.get(`${workshop.address}/kits`)
    const input = await j.find('add-kit')
    await input.sendKeys(join(process.cwd(), 'package.json'))
    await j.until('the reason', async () => (await j.text('kit-message')).includes('cannot be opened as a zip'))
  })
})
