import { readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { By, Key } from 'selenium-webdriver'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Journey } from './browser.ts'

let j: Journey

beforeAll(async () => {
  j = await Journey.start()
  await j.begin('/picks')
})
afterAll(() => j.stop())

/** What the room in the page shows, asked of its own lists. */
const pressed = (test: string) =>
  j.driver.executeScript<string | null>(
    `return document.querySelector('[data-test="' + arguments[0] + '"]')?.getAttribute('aria-pressed') ?? null`,
    test,
  )

/** A gamepad that nobody holds: `come` plugs it in, `leave` pulls it out, `push` and `tilt` hold a button or the stick, `rest` lets all go. */
const PAD = `
  const buttons = Array.from({ length: 17 }, () => ({ pressed: false, touched: false, value: 0 }))
  const own = { index: 0, id: 'stand-in', mapping: 'standard', connected: true, buttons, axes: [0, 0, 0, 0], timestamp: 0 }
  let there = false
  navigator.getGamepads = () => [null, there ? own : null]
  window.pad = {
    come() { there = true; dispatchEvent(new Event('gamepadconnected')) },
    leave() { there = false },
    push(i) { buttons[i].pressed = true },
    tilt(x, y) { own.axes[0] = x; own.axes[1] = y },
    rest() { for (const b of buttons) b.pressed = false; own.axes[0] = own.axes[1] = 0 },
  }`

describe('what players may choose', () => {
  it('is offered slot by slot, and changed with undo', async () => {
    await j.click('picks-slot-hat')
    const before = (await j.findAll('picks-slot-hat'))[0]!
    expect(await before.getText()).toContain('11 parts, begins with nothing')
    await j.click('offer-hat-tall')
    await j.until('one less', async () => (await j.text('picks-slot-hat')).includes('10 parts'))
    await (await j.find('earn-cap-knit')).sendKeys('First Winter!', Key.TAB)
    await j.until(
      'a flag',
      async () => (await (await j.find('earn-cap-knit')).getAttribute('value')) === 'first-winter',
    )
    await j.click('undo')
    await j.click('undo')
    await j.until('as before', async () => (await j.text('picks-slot-hat')).includes('11 parts'))
    await j.until('saved', async () => (await j.text('save-state')) === 'Saved')
  })

  it('has names, tags and an order of its own, springs, rules, and figures of the project as looks', async () => {
    const pick = async (test: string, words: string) => {
      await j.click(test)
      await j.press(`//li[@role="option"][normalize-space()="${words}"]`)
    }
    await j.click('picks-slot-hat')
    await j.click('more-cap-knit')
    const name = await j.driver.findElement(By.id('name-cap-knit'))
    await name.sendKeys(Key.chord(Key.CONTROL, 'a'), 'Winter cap', Key.TAB)
    await (await j.driver.findElement(By.id('tags-cap-knit'))).sendKeys('Warm, old ,warm', Key.TAB)
    await j.until(
      'tags',
      async () => (await j.driver.findElement(By.id('tags-cap-knit')).getAttribute('value')) === 'warm, old',
    )
    await j.click('up-cap-knit')
    const shown = () =>
      j.driver.executeScript<string[]>(
        'return [...document.querySelectorAll("aside.slot .part .words")].map((e) => e.textContent.trim())',
      )
    await j.until('one further up', async () => (await shown())[3] === 'Winter cap')
    expect((await shown()).length).toBe(11)
    await j.click('picks-whole')
    await pick('look-of-figure', 'Maren Quill')
    await j.find('ready-look-4')
    expect(await j.text('left-out')).toContain('left out of Maren Quill: ')
    await j.click('swings-hair-braid-braid')
    await j.find('spring-hair-braid-braid-drag')
    await pick('rule-one', 'Winter cap')
    await pick('rule-kind', 'in place of')
    await pick('rule-slots', 'Hair')
    await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    await j.click('add-rule')
    await j.press('//aside//*[normalize-space()="Winter cap in place of hair"]')
    await pick('icon-size', '64 pixels')
    for (let i = 0; i < 7; i++) await j.click('undo')
    await j.until('as it was', async () => (await j.findAll('ready-look-4')).length === 0)
    await j.click('picks-slot-hat')
    expect((await shown())[4]).toBe('Knit cap')
    expect(await j.faults()).toEqual([])
  })

  it('is built into a package of a body of its own, proved, and looked at as players see it', async () => {
    await j.click('picks-name')
    await j.click('new-picks-gulper')
    await j.until('open', async () => (await j.text('picks-name')).includes('Picks for'))
    await j.click('build-picks')
    await j.find('peg-eyes')
    expect(await j.text('proved')).toContain('proved')
    // a part is put on, dyed, undone
    await j.click('peg-horns')
    await j.click('card-hat-bucket')
    await j.until('worn', async () => (await pressed('card-hat-bucket')) === 'true')
    await j.click('undo-look')
    await j.until('off again', async () => (await pressed('card-nothing')) === 'true')
    await j.click('redo-look')
    await j.until('on again', async () => (await pressed('card-hat-bucket')) === 'true')
    // it hangs on a hook while others are drawn
    await j.click('hang-1')
    await j.find('take-1')
    await j.click('shuffle')
    await j.click('shuffle')
    await j.click('take-1')
    await j.until('taken', async () => (await pressed('card-hat-bucket')) === 'true')
    // what is worn becomes a look that is ready
    await j.click('picks-whole')
    await j.click('keep-look')
    await j.find('ready-look-1')
    await j.click('undo')
    await j.until('gone', async () => (await j.findAll('ready-look-1')).length === 0)
    expect(await j.faults()).toEqual([])
  })

  it('goes by keys alone, from peg to card', async () => {
    const peg = await j.find('peg-eyes')
    await j.driver.executeScript('arguments[0].focus()', peg)
    await j.driver.actions().sendKeys(Key.ENTER).perform()
    const focused = () => j.driver.executeScript<string>('return document.activeElement.dataset.test ?? ""')
    await j.until('the same peg', async () => (await focused()) === 'peg-eyes')
    for (let i = 0; i < 12 && !(await focused()).startsWith('card-'); i++)
      await j.driver.actions().sendKeys(Key.ARROW_DOWN).perform()
    const card = await focused()
    expect(card).toMatch(/^card-/)
    await j.driver.actions().sendKeys(Key.ARROW_RIGHT).perform()
    const next = await focused()
    expect([next === card, /^card-/.test(next)]).toEqual([false, true])
    await j.driver.actions().sendKeys(Key.ENTER).perform()
    await j.until('worn', async () => (await pressed(next)) === 'true')
  })

  it('is told with its proof, and tried on by looks that players could make', async () => {
    await j.press('//*[@data-test="picks-shown"]//button[normalize-space()="Proof"]')
    expect(await j.text('proof-gulper')).toContain('Every part can be worn within the limits')
    expect(await j.faults()).toEqual([])
    await j.press('//*[@data-test="picks-shown"]//button[normalize-space()="Try-on"]')
    await j.until('sixty', async () => (await j.text('try-on')).startsWith('Draw others\n60 of 60'))
    const [one] = await j.driver.findElements(By.css('[data-test="try-on"] .look'))
    await one!.click()
    await j.find('peg-eyes')
    await j.click('package-zip')
    const zip = () => readdirSync(j.downloads).find((f) => f.endsWith('.zip'))
    await j.until('downloaded', () => Promise.resolve(zip() !== undefined))
    expect(statSync(join(j.downloads, zip()!)).size).toBeGreaterThan(100_000)
  })

  it('is a page of its own, of which 60 looks in a row leave nothing behind', async () => {
    const address = (await (await j.find('own-page')).getAttribute('href'))!
    await j.driver.get(address)
    await j.find('peg-eyes')
    // nothing of the workshop is there
    expect(await j.driver.findElements(By.css('nav'))).toEqual([])
    expect(await j.faults()).toEqual([])
    const held = () =>
      j.driver.executeScript<{ geometries: number; textures: number; calls: number }>(
        'return document.querySelector(".sail-loft").room.costs',
      )
    await j.click('shuffle')
    await j.driver.sleep(500)
    const before = await held()
    for (let i = 0; i < 60; i++) {
      await j.driver.executeScript(`document.querySelector('[data-test="shuffle"]').click()`)
      await j.driver.sleep(60)
    }
    await j.driver.sleep(800)
    const after = await held()
    expect([after.geometries, after.textures]).toEqual([before.geometries, before.textures])
    // the figure and the planks
    expect(after.calls).toBe(2)
  })

  it('goes by a gamepad: pegs, cards, sliders, shuffle and back', async () => {
    const takenBack = await j.beforeEachPage(PAD)
    await j.driver.navigate().refresh()
    await j.find('peg-eyes')
    const focused = () => j.driver.executeScript<string>('return document.activeElement.dataset.test ?? ""')
    const run = (what: string) => j.driver.executeScript(what)
    /** Holds a button, or the stick, for so long that it is seen once. */
    const press = async (what: string) => {
      await run(`pad.${what}`)
      await j.driver.sleep(120)
      await run('pad.rest()')
      await j.driver.sleep(80)
    }
    const worn = () => j.driver.executeScript<string>('return document.querySelector(".sail-loft").room.text')
    await run('pad.come()')
    // the first push finds something
    await press('push(13)')
    expect(await focused()).not.toBe('')
    await run(`document.querySelector('[data-test="peg-eyes"]').focus()`)
    await press('push(0)')
    await j.until('the same peg', async () => (await focused()) === 'peg-eyes')
    for (let i = 0; i < 12 && !(await focused()).startsWith('card-'); i++) await press('push(13)')
    const card = await focused()
    expect(card).toMatch(/^card-/)
    await press('tilt(-1, 0)')
    const next = await focused()
    expect([next === card, /^card-/.test(next)]).toEqual([false, true])
    await press('push(0)')
    await j.until('worn', async () => (await pressed(next)) === 'true')
    // a slider goes on while it is held, and is one step when it is let go
    const [cleat] = await j.driver.findElements(By.css('[data-test^="cleat-"]'))
    await j.driver.executeScript('arguments[0].focus()', cleat)
    const value = async () => Number(await cleat!.getAttribute('value'))
    const [min, max] = [Number(await cleat!.getAttribute('min')), Number(await cleat!.getAttribute('max'))]
    const [before, line] = [await value(), await worn()]
    await run('pad.push(14)')
    await j.until('at its end', async () => Math.abs((await value()) - min) < 1e-6)
    await run('pad.rest()')
    await j.driver.sleep(120)
    expect([await focused(), await worn()].slice(0, 1)).toEqual([await cleat!.getAttribute('data-test')])
    expect(await worn()).not.toBe(line)
    await press('push(15)')
    expect((await value()) - min).toBeCloseTo((max - min) * 0.04, 4)
    await press('push(1)')
    await press('push(1)')
    // the cleats are drawn anew by going back
    const [again] = await j.driver.findElements(By.css('[data-test^="cleat-"]'))
    expect(Number(await again!.getAttribute('value'))).toBeCloseTo(before, 4)
    expect(await worn()).toBe(line)
    await press('push(3)')
    expect(await worn()).not.toBe(line)
    // pulled out while it is held, it holds nothing more: the slider stands, and is one step
    const [last] = await j.driver.findElements(By.css('[data-test^="cleat-"]'))
    await j.driver.executeScript('arguments[0].focus()', last)
    const [drawn, start] = [await worn(), Number(await last!.getAttribute('value'))]
    await run('pad.push(15)')
    await j.until('moved', async () => Number(await last!.getAttribute('value')) > start)
    await run('pad.leave()')
    await j.driver.sleep(300)
    const stands = await last!.getAttribute('value')
    await j.driver.sleep(300)
    expect(await last!.getAttribute('value')).toBe(stands)
    await run('pad.rest()')
    await run('pad.come()')
    await press('push(1)')
    expect(await worn()).toBe(drawn)
    await takenBack()
    await j.driver.navigate().refresh()
    await j.find('peg-eyes')
  })

  it('says so where hooks do not hold, and where nothing can be drawn', async () => {
    const address = await j.driver.getCurrentUrl()
    await j.driver.executeScript(
      'Storage.prototype.setItem = () => { throw new DOMException("full", "QuotaExceededError") }',
    )
    await j.click('hang-2')
    const slate = () => j.driver.executeScript<string>('return document.querySelector(".slate").textContent')
    await j.until('told', async () => (await slate()).includes('Hook 2 does not hold'))
    expect(await j.findAll('take-2')).toEqual([])
    const browser = j.driver as unknown as { sendDevToolsCommand(name: string, given: object): Promise<void> }
    await browser.sendDevToolsCommand('Page.addScriptToEvaluateOnNewDocument', {
      source: 'if (location.hash === "#blind") HTMLCanvasElement.prototype.getContext = () => null',
    })
    await j.driver.get('about:blank')
    await j.driver.get(`${address}#blind`)
    expect(await j.text('player-message')).toContain('WebGL')
    expect(await j.driver.findElements(By.css('.sail-loft'))).toEqual([])
  })

  it('says so where the package is not there', async () => {
    await j.driver.get(new URL('/mirror/00000000-0000-4000-8000-000000000000', j.address).href)
    expect(await j.text('player-message')).toContain('cannot be opened')
  })
})
