import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { By, Key } from 'selenium-webdriver'
import { unzipSync, zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { checkShipped, type Mix } from '@idle-tinker/core'
import { startWorkshop, type TestWorkshop } from '../workshop.ts'
import { Journey } from './browser.ts'
import { glbFaults } from '../../packages/core/src/testing/glbFaults.ts'

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
    await j.clickOn(By.css('[data-test="row-over"] .main'))
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
    await j.driver
      .actions()
      .move({ origin: tab })
      .press()
      .move({ origin: tab, x: 25, y: 0 })
      .move({ origin: tab, x: 20, y: 0 })
      .release()
      .perform()
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
    const value = async () => Number((await j.text('slider-build')).match(/-?\d\.\d\d/)![0])
    const before = await value()
    const handle = await (await j.find('slider-build')).findElement(By.css('[role=slider]'))
    await handle.sendKeys(Key.ARROW_RIGHT)
    await handle.sendKeys(Key.chord(Key.SHIFT, Key.ARROW_RIGHT))
    await j.until('a step and a fine step', async () => Math.abs((await value()) - before - 0.06) < 1e-6)
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
    const figure = async () => [
      await j.text('part-over'),
      await j.text('part-hat'),
      await j.text('slider-shoulders'),
      await j.text('slider-build'),
      await j.gauge('triangles'),
    ]
    const before = await figure()
    await j.driver.navigate().refresh()
    await j.until('the same figure', async () => JSON.stringify(await figure()) === JSON.stringify(before))
  })

  it('brings the figure under its limit and back with one switch', async () => {
    const whole = await j.gauge('triangles')
    await j.click('target')
    await j.press('//li[contains(., "crowd")]')
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
    await j.press(
      '//div[@data-test="figure-list"]//div[contains(@class,"row")][.//button[contains(., "Pim Sallow")]]//button[@data-test="delete"]',
    )
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
    // by keys as well: one step back in the group
    await j.driver.actions().sendKeys(Key.ARROW_UP).perform()
    await j.until('more bones', async () => (await j.gauge('bones')) > 22)
    expect(await (await j.find('detail-standard')).getAttribute('aria-checked')).toBe('true')
    await j.driver.actions().sendKeys(Key.END).perform()
    await j.until('22 again', async () => (await j.gauge('bones')) === 22)
    await j.click('weights')
    await j.press('//li[contains(., "Left upper arm")]')
    await j.drawnSince(frames)
    await j.click('bones')
    expect(await j.errors()).toEqual([])
  })

  it('makes 60 dockers under 900 triangles, pins one, rolls another again', async () => {
    await j.driver.get(`${workshop.address}/crowd`)
    await j.click('make')
    await j.until(
      '60 pictures',
      async () => (await j.driver.findElements(By.css('[data-test="contact-sheet"] img'))).length === 60,
    )
    const costs = await j.driver.findElements(By.css('[data-test="contact-sheet"] figcaption .triangles'))
    for (const c of costs) expect(Number(await c.getText())).toBeLessThanOrEqual(900)
    expect((await j.text('part-use')).length).toBeGreaterThan(100)
    // the rail shows the crowd, not the figure of the Bench
    expect(await j.text('crowd-target')).toContain('60 figures')
    expect(await j.gauge('triangles')).toBeLessThanOrEqual(900)
    expect(await j.gauge('bones')).toBe(22)
    const picture = (i: number) => j.driver.findElement(By.css(`[data-test="variant-${i}"] img`)).getAttribute('src')
    const idle = () =>
      j.until('idle', async () => (await j.driver.findElements(By.css('[data-test="make"]'))).length === 1)
    await idle()
    const [first, second] = [await picture(0), await picture(1)]
    const over = async (i: number) =>
      j.driver
        .actions()
        .move({ origin: await j.find(`variant-${i}`) })
        .perform()
    await over(1)
    await j.click('reroll-1')
    await j.until('another one', async () => (await picture(1)) !== second)
    expect(await picture(0)).toBe(first)
    const mix = async () =>
      ((await (await fetch(`${workshop.address}/api/documents/mix`)).json()) as { content: Mix }[]).find(
        (m) => m.content.id === 'quay-at-noon',
      )!.content
    await over(2)
    await j.click('pin-2')
    await j.until('pin and place made anew are saved', async () => {
      const { pins, rerolls } = await mix()
      return pins?.[2] !== undefined && rerolls?.join() === '1'
    })
    const third = await picture(2)
    const anew = await picture(1)
    await j.driver.navigate().refresh()
    await j.click('make')
    await j.until(
      '60 pictures again',
      async () => (await j.driver.findElements(By.css('[data-test="contact-sheet"] img'))).length === 60,
    )
    await idle()
    expect([await picture(0), await picture(1), await picture(2)]).toEqual([first, anew, third])
  })

  it('ships the crowd as a zip of valid GLBs', async () => {
    await j.clickOn(By.css('a.ship'))
    await j.click('ship-crowd')
    await j.click('download-zip')
    const zip = unzipSync(new Uint8Array(readFileSync(await downloaded('.zip'))))
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
  })

  it('ships one figure by itself', async () => {
    await j.driver.get(`${workshop.address}/ship`)
    await j.gauge('triangles')
    await j.click('ship-figure')
    const bytes = new Uint8Array(readFileSync(await downloaded('.glb')))
    expect(await glbFaults(bytes)).toEqual([])
    expect((await checkShipped(bytes)).problems).toEqual([])
  })

  it('makes a target of one’s own, ships to it, and takes it away again', async () => {
    await j.click('edit-target')
    await j.driver.findElement(By.id('limit-triangles')).sendKeys(Key.chord(Key.CONTROL, 'a'), '1200', Key.TAB)
    await j.click('copy-target')
    await j.until('a second target', async () => (await j.text('ship-target')).endsWith(' 2'))
    const before = readdirSync(j.downloads)
    await j.click('ship-figure')
    let file: string | undefined
    await j.until('its file', () => {
      file = readdirSync(j.downloads).find((f) => f.endsWith('.glb') && !before.includes(f))
      return Promise.resolve(file !== undefined)
    })
    const { facts } = await checkShipped(new Uint8Array(readFileSync(join(j.downloads, file!))))
    expect(facts!.triangles).toBeLessThanOrEqual(1200)
    expect(facts!.triangles).toBeGreaterThan(1000)
    await j.click('delete-target')
    await j.until('the first again', async () => !(await j.text('ship-target')).endsWith(' 2'))
    await j.press('//*[@data-test="deleted-targets"]//button[contains(., " 2")]')
    await j.until('it again', async () => (await j.text('ship-target')).endsWith(' 2'))
    await j.click('delete-target')
    await j.until('the first once more', async () => !(await j.text('ship-target')).endsWith(' 2'))
    await j.click('edit-target')
  })

  it('opens a shipped file as a figure again, and says what is wrong with one that is none', async () => {
    const shipped = await downloaded('.glb')
    const broken = join(j.downloads, 'broken.glb')
    writeFileSync(broken, readFileSync(shipped).subarray(0, 3000))
    await j.click('figure-name')
    const rows = async () =>
      (await j.driver.findElements(By.css('[data-test="figure-list"] [data-test="delete"]'))).length
    const before = await rows()
    await (await j.find('open-file')).sendKeys(broken)
    await j.until('the reason', async () => (await j.text('figure-message')).includes('cannot be read'))
    expect(await rows()).toBe(before)
    await (await j.find('open-file')).sendKeys(shipped)
    await j.until('one more', async () => {
      const list = (await (await fetch(`${workshop.address}/api/documents/figure`)).json()) as { name: string }[]
      return list.length === before + 1
    })
  })

  it('finds the crowd it was shipping again after a reload', async () => {
    await j.driver.get(`${workshop.address}/ship`)
    await j.press('//*[@data-test="what"]//*[contains(text(), "Quay at noon")]')
    await j.until('the job', async () => (await j.text('ship-message')).includes('60 files'))
    await j.find('download-zip')
  })

  it('shows what is in each kit, with pictures', async () => {
    await j.driver.get(`${workshop.address}/kits`)
    await j.click('kit-tide-creatures')
    await j.until('pictures', async () => (await j.driver.findElements(By.css('.parts img'))).length >= 10)
    expect(await j.errors()).toEqual([])
  })
})

describe('a person who looks around', () => {
  const lamp = () => j.driver.executeScript<boolean>('return document.documentElement.classList.contains("lamp")')
  /** Contrast of two CSS colors (WCAG 2.1). */
  const contrast = (a: string, b: string) =>
    j.driver.executeScript<number>(
      `const lum = (name) => {
         const probe = document.createElement('i'); probe.style.color = 'var(' + name + ')'; document.body.append(probe)
         const [r, g, b] = getComputedStyle(probe).color.match(/[0-9.]+/g).slice(0, 3).map((v) => v / 255)
           .map((v) => (v <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)); probe.remove()
         return 0.2126 * r + 0.7152 * g + 0.0722 * b }
       const [x, y] = [lum(arguments[0]), lum(arguments[1])].sort((p, q) => q - p)
       return (x + 0.05) / (y + 0.05)`,
      a,
      b,
    )

  it('reads every text in both lights, and finds the light again after a reload', async () => {
    await j.driver.get(`${workshop.address}/bench`)
    await j.gauge('triangles')
    const before = await lamp()
    for (let i = 0; i < 2; i++) {
      for (const ink of ['--ink', '--ink-soft', '--act', '--care', '--over'])
        for (const ground of ['--ground', '--sheet'])
          expect(await contrast(ink, ground), `${ink} on ${ground}`).toBeGreaterThanOrEqual(4.5)
      await j.click('theme')
      await j.until('the other light', async () => (await lamp()) === (i === 0 ? !before : before))
    }
    await j.click('theme')
    await j.driver.navigate().refresh()
    await j.gauge('triangles')
    expect(await lamp()).toBe(!before)
    await j.click('theme')
  })

  it('undoes and redoes by keys, and opens the sheet of keys', async () => {
    const hat = () => j.text('part-hat')
    const before = await hat()
    await j.click('shuffle-hat')
    await j.until('another hat', async () => (await hat()) !== before)
    const after = await hat()
    const body = await j.driver.findElement(By.css('body'))
    await body.sendKeys(Key.chord(Key.CONTROL, 'z'))
    await j.until('undone', async () => (await hat()) === before)
    await body.sendKeys(Key.chord(Key.CONTROL, Key.SHIFT, 'z'))
    await j.until('redone', async () => (await hat()) === after)
    await body.sendKeys('?')
    await j.until('the sheet', async () => (await j.driver.findElements(By.css('.p-dialog'))).length === 1)
    await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    await j.until('closed', async () => (await j.driver.findElements(By.css('.p-dialog'))).length === 0)
  })

  it('selects a part on the stage itself and finds the sliders that move it', async () => {
    const stage = await j.find('stage')
    await stage.click()
    await j.until(
      'something selected',
      async () => (await j.driver.findElements(By.css('[data-test="choices"]'))).length === 1,
    )
    const names = await j.driver.findElements(By.css('.tray [data-test^="slider-"]'))
    expect(names.length).toBeGreaterThan(0)
    const all = await j.driver.executeScript<number>(
      'return document.querySelectorAll(".tray [data-test^=slider-]").length',
    )
    expect(all).toBeLessThan(23)
    await stage.sendKeys(Key.ESCAPE)
    await j.until(
      'the whole body',
      async () => (await j.driver.findElements(By.css('[data-test="slider-stature"]'))).length === 1,
    )
  })

  it('turns, slides and nears the figure on the stage, and finds the whole of it again', async () => {
    const stage = await j.find('stage')
    const picture = async () => {
      // two pictures alike: the stage has come to rest
      let last = ''
      await j.until('rest', async () => {
        const now = await stage.takeScreenshot()
        const still = now === last
        last = now
        return still
      })
      return last
    }
    await j.click('home')
    const whole = await picture()
    const drag = async (x: number, y: number) =>
      j.driver.actions().move({ origin: stage }).press().move({ origin: stage, x, y }).release().perform()
    await drag(120, 0)
    const turned = await picture()
    expect(turned).not.toBe(whole)
    await stage.sendKeys(Key.ESCAPE)
    await j.driver.actions().keyDown(Key.SPACE).perform()
    await drag(0, -90)
    await j.driver.actions().keyUp(Key.SPACE).perform()
    const slid = await picture()
    expect(slid).not.toBe(turned)
    const seen = new Set([whole, turned, slid])
    for (const look of ['Front', 'Side', 'Back', 'Face']) {
      await j.clickOn(By.css(`[aria-label="Look from: ${look}"]`))
      seen.add(await picture())
    }
    expect(seen.size).toBe(7)
    await j.click('home')
    await j.until('the whole figure', async () => (await stage.takeScreenshot()) === whole)
  })

  it('makes a new ottern, shuffles and recolors it', async () => {
    await j.click('figure-name')
    await j.click('new-ottern')
    await j.until('an ottern', async () => (await j.text('figure-name')).startsWith('New ottern'))
    await j.until('its slots', async () => (await j.text('part-whiskers')).length > 0)
    await j.click('shuffle-all')
    await j.saved()
    const fur = await j.find('color-fur')
    // shuffling may have chosen any of them: take one that it has not
    const other = await fur.findElement(By.css('.swatch:not(.on)'))
    const color = await other.getAttribute('title')
    const frames = await j.frames()
    await other.click()
    await j.until('the color', async () => (await fur.findElement(By.css('.on')).getAttribute('title')) === color)
    await j.drawnSince(frames)
    await j.saved()
    expect(await j.errors()).toEqual([])
  })

  it('makes a mix of their own from a body, renames it, puts it away and brings it back', async () => {
    await j.driver.get(`${workshop.address}/crowd`)
    await j.click('mix-name')
    await j.click('new-mix-ottern')
    await j.until('the new mix', async () => (await j.text('mix-name')).startsWith('New crowd of ottern'))
    await j.click('rename')
    await (await j.find('rename-field')).sendKeys('Low tide', Key.ENTER)
    await j.until('its name', async () => (await j.text('mix-name')).startsWith('Low tide'))
    await j.saved()
    await j.click('make')
    await j.until(
      '40 pictures',
      async () => (await j.driver.findElements(By.css('[data-test="contact-sheet"] img'))).length === 40,
    )
    await j.click('mix-name')
    await j.press(
      '//div[@data-test="mix-list"]//div[contains(@class,"row")][.//button[contains(., "Low tide")]]//button[@data-test="delete"]',
    )
    await j.until('another mix', async () => (await j.text('mix-name')).startsWith('Quay at noon'))
    await j.click('restore')
    await j.press('//div[@data-test="mix-list"]//button[contains(., "Low tide")]')
    await j.until('it again', async () => (await j.text('mix-name')).startsWith('Low tide'))
    expect(await j.errors()).toEqual([])
  })

  it('undoes on Crowd what was done there, and nothing on the Bench', async () => {
    await j.driver.get(`${workshop.address}/bench`)
    await j.click('figure-name')
    await j.press('//div[@data-test="figure-list"]//button[contains(., "Maren Quill")]')
    await j.until('Maren', async () => (await j.text('figure-name')).startsWith('Maren Quill'))
    await j.click('shuffle-hair')
    await j.until('an edit to undo', async () => (await j.find('undo')).isEnabled())
    await j.saved()
    const hair = await j.text('part-hair')
    await j.clickOn(By.css('nav a[href="/crowd"]'))
    const seed = async () => (await j.findAt(By.css('#seed'))).getAttribute('value')
    const before = await seed()
    await (await j.findAt(By.css('#seed'))).sendKeys(Key.chord(Key.CONTROL, 'a'), '4321', Key.TAB)
    await j.saved()
    expect(await seed()).toBe('4321')
    await j.driver.executeScript('document.activeElement.blur()')
    await j.driver.actions().keyDown(Key.CONTROL).sendKeys('z').keyUp(Key.CONTROL).perform()
    await j.until('the seed of before', async () => (await seed()) === before)
    await j.until('nothing more to undo', async () => !(await (await j.find('undo')).isEnabled()))
    await j.driver.actions().keyDown(Key.CONTROL).sendKeys('z').keyUp(Key.CONTROL).perform()
    await j.clickOn(By.css('nav a[href="/bench"]'))
    expect(await j.text('part-hair')).toBe(hair)
    await j.until('the figure’s own steps', async () => (await j.find('undo')).isEnabled())
  })

  it('stops a crowd that is being made', async () => {
    await j.driver.get(`${workshop.address}/crowd`)
    await j.click('make')
    await j.click('cancel')
    await j.find('make')
    const there = (await j.driver.findElements(By.css('[data-test="contact-sheet"] img'))).length
    expect(there).toBeLessThan(60)
  })
})

describe('when things go wrong', () => {
  it('tells a second window that the first has saved, and loses neither', async () => {
    await j.driver.get(`${workshop.address}/bench`)
    await j.click('figure-name')
    await j.press('//div[@data-test="figure-list"]//button[contains(., "Maren Quill")]')
    await j.until('Maren', async () => (await j.text('figure-name')).startsWith('Maren Quill'))
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
    await j.press('//button[contains(., "Keep mine as a copy")]')
    await j.until('a copy', async () => (await j.text('figure-name')).includes('(mine)'))
    await j.saved()
    // the refusal is all that went wrong
    expect((await j.errors()).filter((e) => !e.includes('409'))).toEqual([])
  })

  it('keeps edits while the server is away and saves them when it is back', async () => {
    const hair = await j.text('part-hair')
    await j.driver.executeScript(
      'window.realFetch = window.fetch; window.fetch = (...a) => String(a[0]).includes("/api/documents/figure/") ? Promise.reject(new TypeError("away")) : window.realFetch(...a)',
    )
    await j.click('shuffle-hair')
    await j.until('told', async () => (await j.text('save-state')).includes('away'))
    const mine = await j.text('part-hair')
    expect(mine).not.toBe(hair)
    await j.driver.executeScript('window.fetch = window.realFetch')
    await j.saved()
    await j.driver.navigate().refresh()
    await j.until('still there', async () => (await j.text('part-hair')) === mine)
  })

  it('takes no lost answer for another window', async () => {
    await j.driver.executeScript(
      `window.realFetch = window.fetch
       window.lost = 0
       window.fetch = async (...a) => {
         const answer = await window.realFetch(...a)
         if (a[1]?.method !== 'PUT' || window.lost++ > 0) return answer
         throw new TypeError('the connection was reset')
       }`,
    )
    await j.click('shuffle-hair')
    await j.until('told', async () => (await j.text('save-state')).includes('away'))
    const mine = await j.text('part-hair')
    await j.saved()
    await j.driver.navigate().refresh()
    await j.until('still there', async () => (await j.text('part-hair')) === mine)
    await j.saved()
  })

  it('starts a worker that has ended anew, and goes on with the same figure', async () => {
    // the browser ends real workers only for want of memory: the page is told of an end that has not come by itself
    const forget = await j.beforeEachPage(
      'window.workers = []; window.Worker = class extends Worker { constructor(...a) { super(...a); window.workers.push(this) } }',
    )
    await j.driver.navigate().refresh()
    const triangles = await j.gauge('triangles')
    expect(triangles).toBeGreaterThan(1000)
    const count = () => j.driver.executeScript<number>('return window.workers.length')
    const before = await count()
    await j.driver.executeScript('window.workers[0].dispatchEvent(new ErrorEvent("error", { message: "no memory" }))')
    await j.until('another worker', async () => (await count()) > before)
    const frames = await j.frames()
    await j.click('clear-hat')
    await j.until('fewer triangles', async () => (await j.gauge('triangles')) < triangles)
    await j.drawnSince(frames)
    await j.saved()
    await forget()
  })

  it('takes a kit of one’s own: its parts are shown, and figures are made from it', async () => {
    const folder = join(process.cwd(), 'kits/tide-creatures')
    const files: Record<string, Uint8Array> = {}
    for (const path of readdirSync(folder, { recursive: true, encoding: 'utf8' }))
      if (/\.(json|glb)$/.test(path)) files[path] = new Uint8Array(readFileSync(join(folder, path)))
    const manifest = JSON.parse(new TextDecoder().decode(files['kit.json'])) as { id: string; name: string }
    files['kit.json'] = new TextEncoder().encode(
      JSON.stringify({ ...manifest, id: 'reef-creatures', name: 'Reef creatures' }),
    )
    const zip = join(j.downloads, 'reef.zip')
    writeFileSync(zip, zipSync(files))
    await j.driver.get(`${workshop.address}/kits`)
    await j.click('kit-saltwick-folk')
    await (await j.find('add-kit')).sendKeys(zip)
    await j.until('it', async () => (await j.text('kit-reef-creatures')).startsWith('Reef creatures'))
    await j.until('pictures', async () => (await j.driver.findElements(By.css('.parts img'))).length >= 10)
    await j.click('figure-name')
    const buttons = await j.driver.findElements(By.css('[data-test="new-ottern"]'))
    expect(buttons).toHaveLength(2)
    await buttons[1]!.click()
    await j.until('an ottern', async () => (await j.text('figure-name')).startsWith('New ottern'))
    await j.driver.get(`${workshop.address}/bench`)
    expect(await j.gauge('triangles')).toBeGreaterThan(1000)
    expect(await j.errors()).toEqual([])
  })

  it('asks before a kit takes the place of another, and before one is removed', async () => {
    const newer = { ...unzipSync(new Uint8Array(readFileSync(join(j.downloads, 'reef.zip')))) }
    const manifest = JSON.parse(new TextDecoder().decode(newer['kit.json'])) as object
    newer['kit.json'] = new TextEncoder().encode(JSON.stringify({ ...manifest, kitVersion: '2.0.0' }))
    const zip = join(j.downloads, 'reef-2.zip')
    writeFileSync(zip, zipSync(newer))
    await j.driver.get(`${workshop.address}/kits`)
    await (await j.find('add-kit')).sendKeys(zip)
    await j.until('the question', async () => (await j.text('kit-message')).includes('Nothing was replaced'))
    expect(await j.text('kit-reef-creatures')).toContain('1.0.0')
    await j.click('replace-kit')
    await j.until('the newer one', async () => (await j.text('kit-reef-creatures')).includes('2.0.0'))
    await j.click('kit-reef-creatures')
    await j.click('remove-kit')
    await j.click('remove-kit-sure')
    await j.until(
      'it gone',
      async () => (await j.driver.findElements(By.css('[data-test="kit-reef-creatures"]'))).length === 0,
    )
    await j.driver.get(`${workshop.address}/bench`)
    await j.click('figure-name')
    await j.press('//div[@data-test="figure-list"]//button[contains(., "Maren Quill")]')
    await j.until('Maren', async () => (await j.text('figure-name')).startsWith('Maren Quill'))
    expect(await j.gauge('triangles')).toBeGreaterThan(1000)
    expect((await j.errors()).filter((e) => !e.includes('409'))).toEqual([])
  })

  it('says in words what is wrong with a file that is no kit', async () => {
    await j.driver.get(`${workshop.address}/kits`)
    const input = await j.find('add-kit')
    await input.sendKeys(join(process.cwd(), 'package.json'))
    await j.until('the reason', async () => (await j.text('kit-message')).includes('cannot be opened as a zip'))
  })
})
