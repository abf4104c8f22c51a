import { By, Key } from 'selenium-webdriver'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { Journey } from './browser.ts'

let j: Journey

beforeAll(async () => void (j = await Journey.start()))
afterAll(() => j.stop())
beforeEach(() => j.begin('/bench'))

describe('when things go wrong', () => {
  it('tells a second window that the first has saved, and loses neither', async () => {
    const first = await j.driver.getWindowHandle()
    await j.driver.switchTo().newWindow('tab')
    await j.go('/bench')
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

  it('tells a skeleton that cannot be kept, as its target was changed in another window, and gives the way out', async () => {
    const first = await j.driver.getWindowHandle()
    await j.walk('/motion')
    await j.find('detail-far')
    await j.driver.switchTo().newWindow('tab')
    await j.go('/ship')
    await j.click('edit-target')
    await j.click('travels')
    await j.saved()
    await j.driver.switchTo().window(first)
    await j.click('detail-far')
    await j.click('keep-skeleton')
    await j.until('told', async () => (await j.text('save-state')) === 'Changed in another window')
    expect(await j.text('open-target')).toContain('Limits')
    await j.press('//button[contains(., "Take theirs")]')
    // theirs it is, and what is worked on is the figure again
    await j.until('the figure', async () => (await j.findAll('open-target')).length === 0)
    await j.until('its own bones', async () => (await j.gauge('bones')) === 45)
    expect((await j.errors()).filter((e) => !e.includes('409'))).toEqual([])
  })

  it('keeps a skeleton for its target while the server is away, and the figure can be undone meanwhile', async () => {
    await j.walk('/motion')
    await j.driver.executeScript(
      'window.realFetch = window.fetch; window.fetch = (...a) => String(a[0]).includes("/api/documents/target/") ? Promise.reject(new TypeError("away")) : window.realFetch(...a)',
    )
    await j.click('detail-far')
    await j.click('keep-skeleton')
    await j.until('the figure again', async () => (await j.findAll('open-target')).length === 0)
    await j.until('its bones', async () => (await j.gauge('bones')) === 13)
    await j.walk('/bench')
    await j.click('clear-hat')
    await j.until('bare', async () => (await j.text('part-hat')) === 'No headwear')
    await j.click('undo')
    await j.until('undone', async () => (await j.text('part-hat')) !== 'No headwear')
    await j.driver.executeScript('window.fetch = window.realFetch')
    // back, it is saved without anybody asking; the next visit finds it
    const kept = async () => {
      await j.go('/bench')
      return (await j.gauge('bones')) === 13
    }
    await j.until('kept', kept)
    await j.walk('/motion')
    await j.click('detail-near')
    await j.click('keep-skeleton')
    await j.until(
      'as it was',
      async () => (await j.gauge('bones')) === 45 && (await j.findAll('open-target')).length === 0,
    )
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
    await j.go('/bench')
    expect(await j.text('part-hair')).toBe(mine)
  })

  it('keeps an edit over a reload while the server is away', async () => {
    await j.driver.executeScript(
      'window.fetch = (...a) => a[1]?.method === "PUT" ? Promise.reject(new TypeError("away")) : Promise.reject(new TypeError("away"))',
    )
    await j.click('clear-hat')
    await j.until('told', async () => (await j.text('save-state')).includes('away'))
    await j.go('/bench')
    await j.until('bare head', async () => (await j.text('part-hat')) === 'No headwear')
    await j.saved()
  })

  it('takes no lost answer for another window', async () => {
    await j.driver.executeScript(
      `window.realFetch = window.fetch
       window.lost = 0
       window.fetch = async (...a) => {
         const answer = await window.realFetch(...a)
         // its picture is put as well, whenever it is drawn
         const saves = a[1]?.method === 'PUT' && /[/]documents[/]figure[/][^/]+$/.test(String(a[0]))
         if (!saves || window.lost++ > 0) return answer
         throw new TypeError('the connection was reset')
       }`,
    )
    await j.click('shuffle-hair')
    await j.until('told', async () => (await j.text('save-state')).includes('away'))
    const mine = await j.text('part-hair')
    await j.saved()
    await j.go('/bench')
    expect(await j.text('part-hair')).toBe(mine)
    await j.saved()
  })

  it('starts a worker that has ended anew, says so, and goes on with the same figure', async () => {
    // the browser ends real workers only for want of memory: the page is told of an end that has not come by itself
    const forget = await j.beforeEachPage(
      'window.workers = []; window.Worker = class extends Worker { constructor(...a) { super(...a); window.workers.push(this) } }',
    )
    try {
      await j.go('/bench')
      const triangles = await j.gauge('triangles')
      const count = () => j.driver.executeScript<number>('return window.workers.length')
      const before = await count()
      await j.driver.executeScript('window.workers[0].dispatchEvent(new ErrorEvent("error", { message: "no memory" }))')
      await j.until('another worker', async () => (await count()) > before)
      await j.findAt(By.css('.p-toast-message'))
      const frames = await j.frames()
      await j.click('clear-hat')
      await j.until('fewer triangles', async () => (await j.gauge('triangles')) < triangles)
      await j.drawnSince(frames)
      await j.saved()
    } finally {
      await forget()
    }
  })

  it('tells how a crowd’s files are doing though its stream of news is cut', async () => {
    await j.driver.executeScript(
      `window.streams = []
       window.EventSource = class extends EventSource { constructor(...a) { super(...a); window.streams.push(this) } }`,
    )
    await j.walk('/crowd')
    await (await j.findAt(By.id('count'))).sendKeys(Key.chord(Key.CONTROL, 'a'), '12', Key.TAB)
    await j.saved()
    await j.walk('/ship')
    await j.press('//*[@data-test="what"]//*[contains(text(), "Quay at noon")]')
    await j.click('ship-crowd')
    await j.until('news', async () => (await j.driver.executeScript<number>('return window.streams.length')) === 1)
    // closed for good, as by a refusal, which the browser does not take up again by itself
    await j.driver.executeScript('window.streams[0].close(); window.streams[0].dispatchEvent(new Event("error"))')
    await j.until(
      'a new stream',
      async () => (await j.driver.executeScript<number>('return window.streams.length')) >= 2,
    )
    await j.until('done', async () => (await j.text('ship-message')).includes('12 figures'))
    await j.find('download-zip')
  })
})
