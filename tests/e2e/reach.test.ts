import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { By, Key } from 'selenium-webdriver'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { checkShipped } from '@idle-tinker/core'
import { Journey } from './browser.ts'
import { motionFile } from './motionFile.ts'

const STATIONS = ['/kits', '/bench', '/motion', '/crowd', '/picks', '/ship'] as const

let j: Journey

beforeAll(async () => void (j = await Journey.start()))
afterAll(() => j.stop())
beforeEach(() => j.begin('/bench'))

/** Nothing is in the way on the page as it stands, in both lights: but for colors, the other is as this one. */
async function clear(what: string, seen = () => Promise.resolve()): Promise<void> {
  await j.driver.sleep(400)
  expect((await j.faults()).join('; '), what).toBe('')
  await seen()
  // what lies over the page takes every click
  const other = () => j.driver.executeScript(`document.querySelector('[data-test="theme"]').click()`)
  await other()
  await j.driver.sleep(400)
  expect((await j.faults('color-contrast')).join('; '), `${what}, the other light`).toBe('')
  await seen()
  await other()
}

describe('everyone', () => {
  it('finds nothing in the way on any station, in both lights', async () => {
    for (const route of STATIONS) {
      await j.walk(route)
      if (route === '/crowd') {
        await (await j.findAt(By.id('count'))).sendKeys(Key.chord(Key.CONTROL, 'a'), '4', Key.TAB)
        await j.click('make')
        await j.find('make')
        await j.click('shares-hat')
      }
      if (route === '/ship') await j.click('edit-target')
      if (route === '/kits') {
        const part = (id: string) => join(process.cwd(), `kits/saltwick-folk/parts/${id}.glb`)
        await (await j.find('add-pack')).sendKeys([part('mug'), part('lantern'), part('coat-quay')].join('\n'))
        await j.find('pack-counts')
      }
      await clear(route, async () => {
        // a picture of one color takes 5 KB, the emptiest station 60
        const picture = Buffer.from(await j.driver.takeScreenshot(), 'base64')
        expect(picture.length, `${route}, as it is seen`).toBeGreaterThan(20_000)
      })
    }
  })

  it('sees colors that are no contrast, in either light', async () => {
    for (const [ink, ground] of [
      ['#eee', '#ddd'],
      ['#222', '#333'],
    ]) {
      await j.driver.executeScript(`const p = document.querySelector('[data-test="figure-name"]')
        p.style.color = '${ink}'; p.style.background = '${ground}'`)
      expect(await j.faults('color-contrast')).toContainEqual(expect.stringMatching(/^color-contrast/))
    }
  })

  it('finds nothing in the way on the pages of a kit, of a part, and where one is tried on', async () => {
    await j.walk('/kits')
    for (const side of ['Bodies', 'Looks', 'Palettes', 'kit.json', 'Parts']) {
      await j.press(`//*[@data-test="kit-side"]//button[normalize-space()="${side}"]`)
      await clear(side)
    }
    await (await j.find('shelf-words')).sendKeys(Key.chord(Key.CONTROL, 'a'), 'quay coat')
    await j.click('part-coat-quay')
    await j.find('part-cost')
    await clear('a part')
    await j.click('try-ottern')
    await j.find('refit-report')
    await clear('tried on')
  })

  it('finds nothing in the way where hands work on the figure, nor in the cast and side by side', async () => {
    const still = async (what: string) => {
      await j.driver.sleep(500)
      expect((await j.faults()).join('; '), what).toBe('')
    }
    await j.press('//*[@data-test="tray-of"]//button[normalize-space()="Nudge"]')
    await still('the brush')
    await j.clickOn(By.css('[data-test="row-trims"] .main'))
    await j.click('choice-trim-button')
    await j.find('placed-how')
    await still('placed parts')
    await j.click('looks')
    await j.click('look-regions')
    await j.find('legend')
    await still('ways to look')
    await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    await j.click('cast')
    await j.until('everybody', async () => (await j.driver.findElements(By.css('.line .one img'))).length >= 5)
    await still('the cast')
    await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    await j.until('no cast', async () => (await j.findAll('cast-dialog')).length === 0)
    await j.click('steps')
    await j.click('snap')
    await j.clickOn(By.css('[data-test="snapshots"] .picture'))
    await j.find('differences')
    await still('side by side')
  })

  it('finds nothing in the way in what opens over a page', async () => {
    await j.click('figure-name')
    await j.find('figure-list')
    await j.driver.sleep(400)
    expect(await j.faults(), 'list of figures').toEqual([])
    await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    await j.driver.actions().sendKeys('?').perform()
    await j.driver.sleep(400)
    expect(await j.faults(), 'sheet of keys').toEqual([])
    await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    await j.until('closed', async () => (await j.driver.findElements(By.css('.p-dialog'))).length === 0)
    await j.walk('/crowd')
    await (await j.findAt(By.id('count'))).sendKeys(Key.chord(Key.CONTROL, 'a'), '3', Key.TAB)
    await j.click('make')
    await j.find('make')
    await j.click('look-1')
    await j.find('variant-costs')
    await j.driver.sleep(400)
    expect(await j.faults(), 'a figure closely').toEqual([])
    await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    await j.go('/motion')
    await (await j.find('add-motion')).sendKeys(motionFile('Quay stroll', 'walk'))
    await j.find('carried')
    expect(await j.faults(), 'a motion from elsewhere').toEqual([])
    await j.click('open-match')
    await j.find('keep-match')
    await j.driver.sleep(400)
    expect(await j.faults(), 'which bone is which').toEqual([])
  })

  it('sees the check itself fail where a name is missing', async () => {
    await j.driver.executeScript(`document.querySelector('[data-test="undo"]').removeAttribute('aria-label')
      document.querySelector('[data-test="undo"]').removeAttribute('title')`)
    expect(await j.faults()).toContainEqual(expect.stringMatching(/^button-name/))
  })

  it('has room on every station from 200 % of 1280 by 800 to 2560 by 1440', async () => {
    /** Sizes in CSS pixels, and how wide the stage is there at the least. */
    const sizes = [
      [640, 400, 260],
      [1024, 700, 380],
      [1280, 800, 600],
      [1920, 1200, 1200],
      [2560, 1440, 1800],
    ] as const
    for (const route of STATIONS) {
      await j.walk(route)
      if (route === '/ship') {
        await j.press('//*[@data-test="what"]//*[contains(text(), "Quay at noon")]')
        await j.click('edit-target')
      }
      for (const [width, height, stage] of sizes) {
        await j.resize(width, height)
        await j.driver.sleep(300)
        const at = `${route} at ${width} by ${height}`
        const cut = await j.driver.executeScript<string[]>(
          `const rooms = 'footer .room, .tabs, [role="listbox"]'
           // a click may have moved what does not fit
           document.querySelectorAll('.scroll').forEach((e) => (e.scrollLeft = 0))
           return [...document.querySelectorAll('button, input, a, h2, canvas, [role="slider"]')].flatMap((e) => {
             const b = e.getBoundingClientRect()
             if (!b.width || e.closest(rooms) || e.type === 'file' || !e.checkVisibility({ visibilityProperty: true })) return []
             // a sheet scrolls up and down, never sideways
             const high = !e.closest('.scroll') && (b.top < -1 || b.bottom > innerHeight + 1)
             return b.left < -1 || b.right > innerWidth + 1 || high ? [e.outerHTML.slice(0, 120)] : []
           })`,
        )
        expect(cut, at).toEqual([])
        const [page, seen] = await j.driver.executeScript<[number, number]>(
          'return [document.documentElement.scrollWidth, innerWidth]',
        )
        expect(page, at).toBeLessThanOrEqual(seen)
        if (route === '/bench' || route === '/motion')
          expect((await (await j.find('stage')).getRect()).width, at).toBeGreaterThan(stage)
      }
      await j.resize(1280, 800)
    }
  })

  it('turns over the sheets where there is no room for both', async () => {
    await j.resize(640, 400)
    await j.find('shuffle-all')
    await j.clickOn(By.xpath('//*[@data-test="turn-sheet"]//button[contains(., "Tray")]'))
    expect(await (await j.find('slider-stature')).isDisplayed()).toBe(true)
    expect(await (await j.find('shuffle-all')).isDisplayed()).toBe(false)
    await j.clickOn(By.xpath('//*[@data-test="turn-sheet"]//button[contains(., "Build sheet")]'))
    await j.clickOn(By.css('[data-test="row-over"] .main'))
    // who chooses a place wants what may fill it
    await j.until('the tray', async () => (await j.find('choices')).isDisplayed())
  })

  it('goes the whole way by keys alone: from the Bench to a file', async () => {
    const focused = () =>
      j.driver.executeScript<string>(
        `const e = document.activeElement
         return [e.dataset.test, e.getAttribute('aria-label'), e.textContent.trim().slice(0, 40)].filter(Boolean).join(' | ')`,
      )
    const press = (...keys: string[]) =>
      j.driver
        .actions()
        .sendKeys(...keys)
        .perform()
    /** Goes on from element to element until one is reached. */
    const reach = async (what: RegExp) => {
      for (let i = 0; i < 220; i++) {
        await press(Key.TAB)
        if (what.test(await focused())) return
      }
      throw new Error(`no way by keys to ${what}; at ${await focused()}`)
    }
    const part = await j.text('part-over')
    await reach(/Quay master’s coat/)
    await press(Key.ENTER)
    await j.until('the tray', async () => (await j.findAll('choices')).length === 1)
    await reach(/^choice-jacket-short/)
    await press(Key.ENTER)
    await j.until('the jacket', async () => (await j.text('part-over')) === 'Pea jacket')
    await press(Key.ESCAPE)
    await j.until('the whole body', async () => (await j.findAll('slider-stature')).length === 1)
    await reach(/^Stature/)
    await press(Key.ARROW_RIGHT)
    await j.until('taller', async () => (await j.text('slider-stature')).includes('0.05'))
    await j.driver.actions().keyDown(Key.CONTROL).sendKeys('z', 'z').keyUp(Key.CONTROL).perform()
    await j.until('all undone', async () => (await j.text('part-over')) === part)
    await reach(/^Ship$/)
    await press(Key.ENTER)
    await j.find('ship-figure')
    await reach(/^ship-figure/)
    await j.until('the figure', async () => (await j.find('ship-figure')).isEnabled())
    const before = readdirSync(j.downloads)
    await press(Key.ENTER)
    const bytes = new Uint8Array(readFileSync(await j.downloaded('.glb', before)))
    expect((await checkShipped(bytes)).problems).toEqual([])
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

  it('finds light and target again after a reload', async () => {
    const lamp = () => j.driver.executeScript<boolean>('return document.documentElement.classList.contains("lamp")')
    const before = await lamp()
    await j.click('theme')
    await j.click('target')
    await j.press('//li[contains(., "crowd")]')
    await j.go('/bench')
    expect(await lamp()).toBe(!before)
    expect(await j.text('target')).toContain('crowd')
  })
})
