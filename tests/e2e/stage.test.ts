import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { By, Key, Origin } from 'selenium-webdriver'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { ShippedFile } from '../../packages/core/src/ship/ShippedFile.ts'
import { Journey } from './browser.ts'
import { beastFile, meshFile, motionFile } from './motionFile.ts'

let j: Journey

/** Keeps every WebGL context a page makes. */
const WATCH_CONTEXTS = `window.contexts = []
  for (const kind of [HTMLCanvasElement, OffscreenCanvas]) {
    const real = kind.prototype.getContext
    kind.prototype.getContext = function (type, ...rest) {
      const context = real.call(this, type, ...rest)
      if (context && /webgl/.test(type) && !window.contexts.includes(context)) window.contexts.push(context)
      return context
    }
  }`

beforeAll(async () => {
  j = await Journey.start()
  await j.beforeEachPage(WATCH_CONTEXTS)
})
afterAll(() => j.stop())
beforeEach(() => j.begin('/bench'))

/** What is drawn on the stage, without what lies over it. */
const drawn = () => j.driver.executeScript<string>(`return document.querySelector('[data-test="stage"]').toDataURL()`)

/** The same once it has come to rest: twice alike. */
async function picture(): Promise<string> {
  let last = ''
  await j.until('rest', async () => {
    const now = await drawn()
    const still = now === last
    last = now
    return still
  })
  return last
}

describe('the stage', () => {
  it('is turned, slid and neared by hand, and finds the whole figure again', async () => {
    const stage = await j.find('stage')
    await j.click('home')
    const whole = await picture()
    const drag = async (x: number, y: number) =>
      j.driver.actions().move({ origin: stage }).press().move({ origin: stage, x, y }).release().perform()
    await drag(120, 0)
    const turned = await picture()
    expect(turned).not.toBe(whole)
    await j.driver.actions().keyDown(Key.SPACE).perform()
    await drag(0, -90)
    await j.driver.actions().keyUp(Key.SPACE).perform()
    const seen = new Set([whole, turned, await picture()])
    for (const look of ['Front', 'Side', 'Back', 'Face']) {
      await j.clickOn(By.css(`[aria-label="Look from: ${look}"]`))
      seen.add(await picture())
    }
    expect(seen.size).toBe(7)
    await j.click('home')
    await j.until('the whole figure', async () => (await drawn()) === whole)
  })

  it('is turned, slid and neared by keys, and brought home from anywhere', async () => {
    const stage = await j.find('stage')
    await j.click('home')
    const whole = await picture()
    await j.driver.executeScript('arguments[0].focus()', stage)
    const after = async (key: string) => {
      await stage.sendKeys(key)
      return picture()
    }
    const turned = await after(Key.ARROW_RIGHT)
    const raised = await after(Key.ARROW_UP)
    const near = await after('+')
    expect(new Set([whole, turned, raised, near]).size).toBe(4)
    expect((await after('-')) === raised).toBe(true)
    const slid = await after(Key.chord(Key.SHIFT, Key.ARROW_LEFT))
    expect([whole, turned, raised].includes(slid)).toBe(false)
    expect((await after(Key.HOME)) === whole).toBe(true)
    expect((await after(Key.ARROW_RIGHT)) === turned).toBe(true)
    await j.driver.executeScript('document.activeElement.blur()')
    await j.driver.actions().sendKeys(Key.HOME).perform()
    await j.until('home without the focus', async () => (await drawn()) === whole)
  })

  it('makes one WebGL context for the whole visit, and nothing runs on where it is not seen', async () => {
    const stations = ['/motion', '/crowd', '/kits', '/ship', '/bench']
    for (const route of [...stations, ...stations]) await j.walk(route)
    await j.walk('/motion')
    await j.click('clip-walk')
    await j.click('play')
    await j.drawnSince((await j.frames()) + 3)
    await j.walk('/bench')
    await j.find('gauge-triangles')
    await picture()
    const frames = await j.frames()
    // the loop of a clip that was left playing would ask for a frame every 16 ms
    const asked = await j.driver.executeAsyncScript<number>(
      `const done = arguments[0]
       const real = window.requestAnimationFrame
       let asked = 0
       window.requestAnimationFrame = (f) => (asked++, real.call(window, f))
       setTimeout(() => { window.requestAnimationFrame = real; done(asked) }, 1000)`,
    )
    expect([await j.frames(), asked]).toEqual([frames, 0])
    expect(await j.driver.executeScript('return window.contexts.length')).toBe(1)
    expect(await j.errors()).toEqual([])
  })

  it('says when the graphics are away, keeps its picture, and draws again when they are back', async () => {
    await j.click('home')
    const before = await picture()
    await j.driver.executeScript(
      'window.loss = window.contexts[0].getExtension("WEBGL_lose_context"); window.loss.loseContext()',
    )
    await j.until('told', async () => (await j.text('away')).includes('away'))
    // what was drawn last is still there
    const inked = () =>
      j.driver.executeScript<number>(
        `const c = document.querySelector('[data-test="stage"]')
         const { data } = c.getContext('2d').getImageData(0, 0, c.width, c.height)
         return new Set(new Uint32Array(data.buffer)).size`,
      )
    expect(await inked()).toBeGreaterThan(500)
    // what is edited meanwhile is built and saved, though not yet drawn
    const triangles = await j.gauge('triangles')
    await j.click('clear-hat')
    await j.until('fewer triangles', async () => (await j.gauge('triangles')) < triangles)
    await j.saved()
    await j.driver.executeScript('window.loss.restoreContext()')
    await j.until('back', async () => (await j.findAll('away')).length === 0)
    const without = await picture()
    expect(without).not.toBe(before)
    await j.click('undo')
    await j.until('the hat again, as it was', async () => (await drawn()) === before)
  })

  it('says so where a browser has no WebGL, and everything else works', async () => {
    const forget = await j.beforeEachPage(
      `for (const kind of [HTMLCanvasElement, OffscreenCanvas]) {
         const real = kind.prototype.getContext
         kind.prototype.getContext = function (type, ...rest) { return /webgl/.test(type) ? null : real.call(this, type, ...rest) }
       }`,
    )
    try {
      await j.go('/bench')
      expect(await j.text('away')).toContain('no WebGL')
      const triangles = await j.gauge('triangles')
      await j.click('clear-hat')
      await j.until('fewer triangles', async () => (await j.gauge('triangles')) < triangles)
      await j.saved()
      await j.walk('/crowd')
      await (await j.findAt(By.id('count'))).sendKeys(Key.chord(Key.CONTROL, 'a'), '3', Key.TAB)
      await j.click('make')
      await j.find('make')
      expect(await j.gauge('triangles')).toBeLessThanOrEqual(900)
      await j.walk('/motion')
      await j.find('clip-walk')
      await j.walk('/ship')
      await j.press('//*[@data-test="what"]//*[contains(text(), "Maren")]')
      await j.click('ship-figure')
      await j.downloaded('.glb')
      // the browser tells of each try by itself
      expect((await j.errors()).filter((e) => !e.includes('WebGL'))).toEqual([])
    } finally {
      await forget()
    }
  })
})

describe('Motion', () => {
  beforeEach(() => j.go('/motion'))

  it('plays her walk, scrubs it, and shows bones and weights', async () => {
    await j.click('clip-walk')
    await j.click('play')
    await j.drawnSince((await j.frames()) + 3)
    await j.click('play')
    expect(await j.text('clip-time')).toMatch(/^0\.\d\d s$/)
    const posed = await picture()
    await j.click('bones')
    const bare = await picture()
    expect(bare).not.toBe(posed)
    await j.click('weights')
    await j.press('//li[contains(., "Left upper arm")]')
    await j.until('weights', async () => (await picture()) !== bare)
    await j.clickOn(By.css('[data-test="weights"] .p-select-clear-icon'))
    await j.until('her own colors again', async () => (await picture()) === bare)
    await j.click('points')
    expect(await j.text('point-list')).toMatch(/Top of the head\s+1\.\d\d m/)
    await j.until('marks', async () => (await picture()) !== bare)
    const marked = await picture()
    await j.driver
      .actions()
      .move({ origin: await j.find('point-headTop') })
      .perform()
    await j.until('one of them larger', async () => (await picture()) !== marked)
    await j.click('points')
    await j.until('none', async () => (await picture()) === bare)
    // the joint that bends worst, tried on her until another clip is chosen
    await j.click('bends')
    const list = await j.find('bend-list')
    await j.until('scores', async () => (await list.findElements(By.css('button'))).length === 8)
    const scores = (await list.getText()).match(/\d+$/gm)!.map(Number)
    expect(scores).toEqual([...scores].sort((a, b) => a - b))
    await (await list.findElement(By.css('button'))).click()
    expect(await j.text('bend-words')).toMatch(/^At worst .* by 50°: \d+ % of the volume is left/)
    await j.drawnSince((await j.frames()) + 2)
    expect(await j.text('trying')).toMatch(/^Trying a bend: \w+/)
    await j.click('clip-walk')
    await j.until('no bend', async () => (await j.findAll('trying')).length === 0)
    await j.click('bends')
    expect(await j.errors()).toEqual([])
  })

  it('gives a mesh bones: an elbow is put right by hand, it walks, and ships', async () => {
    await (await j.find('add-mesh')).sendKeys(await meshFile('Harbour hand'))
    const rings = '[data-test="landmarks-front"] circle'
    await j.until('landmarks', async () => (await j.driver.findElements(By.css(rings))).length === 22)
    // it lies on its back in centimetres, and was found to
    const words = await j.text('rig-dialog')
    expect(words).toMatch(/It stands 1\.\d\d m tall/)
    expect([await j.text('rig-up'), await j.text('rig-front'), await j.text('rig-unit')]).toEqual(['z', '-y', 'cm'])
    const placeOf = async (id: string) => {
      const { x, y, width } = await (await j.find(`landmark-front-${id}`)).getRect()
      return [x + width / 2, y + width / 2] as const
    }
    const middle = (await placeOf('crown'))[0]
    const [before, other] = [await placeOf('leftElbow'), await placeOf('rightElbow')]
    const ring = await j.find('landmark-front-leftElbow')
    await j.driver
      .actions()
      .move({ origin: ring })
      .press()
      .move({ origin: Origin.POINTER, x: 6, y: -9 })
      .move({ origin: Origin.POINTER, x: 6, y: -9 })
      .release()
      .perform()
    await j.until('it moved', async () => (await placeOf('leftElbow'))[1] < before[1] - 14)
    expect(await j.text('landmark-leftElbow')).toContain('set')
    // the other side went along, as far on its own side
    const [after, across] = [await placeOf('leftElbow'), await placeOf('rightElbow')]
    expect(across[1] - other[1]).toBeCloseTo(after[1] - before[1], 0)
    expect(middle - across[0]).toBeCloseTo(after[0] - middle, 0)
    // by keys alone it goes back, a centimetre a step; and a step is taken back
    await j.driver.executeScript('document.querySelector(\'[data-test="landmark-front-leftElbow"]\').focus()')
    await j.driver.actions().sendKeys(Key.ARROW_DOWN, Key.ARROW_DOWN).perform()
    await j.until('lower', async () => (await placeOf('leftElbow'))[1] > after[1] + 3)
    await j.click('rig-undo')
    await j.click('rig-undo')
    await j.until('where it was', async () => Math.abs((await placeOf('leftElbow'))[1] - after[1]) < 0.6)
    expect(await j.faults()).toEqual([])

    await j.click('rig-make')
    await j.until('done', async () => (await j.findAll('rig-dialog')).length === 0)
    await j.until('the figure', async () => (await j.text('figure-name')) === 'Harbour hand')
    await j.click('play')
    await j.drawnSince((await j.frames()) + 3)
    await j.click('play')
    await j.walk('/ship')
    const files = readdirSync(j.downloads)
    await j.until('the figure', async () => (await j.find('ship-figure')).isEnabled())
    await j.click('ship-figure')
    const shipped = new ShippedFile(new Uint8Array(readFileSync(await j.downloaded('.glb', files))))
    expect(shipped.clips().map((c) => c.name)).toEqual(['Idle', 'Walk'])
    expect(shipped.nodes.some((n) => n.name === 'leftLowerArm')).toBe(true)
    expect(await j.errors()).toEqual([])
  })

  it('gives a dog bones: on four legs, unless somebody says otherwise; it trots', async () => {
    await (await j.find('add-mesh')).sendKeys(beastFile('dog'))
    const rings = async () => (await j.driver.findElements(By.css('[data-test="landmarks-side"] circle'))).length
    await j.until('four legs', async () => (await rings()) === 27)
    expect(await j.text('rig-legs')).toContain('four legs')
    await j.click('rig-legs')
    await j.press('//li[@role="option"][normalize-space()="two legs"]')
    await j.until('as on two', async () => (await rings()) === 22)
    await j.click('rig-legs')
    await j.press('//li[@role="option"][normalize-space()="four legs"]')
    await j.until('four again', async () => (await rings()) === 27)
    await j.click('rig-make')
    await j.until('done', async () => (await j.findAll('rig-dialog')).length === 0)
    await j.until('the figure', async () => (await j.text('figure-name')) === 'dog')
    await j.click('clip-four-trot')
    await j.click('play')
    await j.drawnSince((await j.frames()) + 3)
    await j.click('play')
    expect(await j.faults()).toEqual([])
    expect(await j.errors()).toEqual([])
  })

  it('has the chains of a dog drawn by hand: its trunk by pointing, its tail by keys', async () => {
    await (await j.find('add-mesh')).sendKeys(beastFile('dog'))
    await j.until('seen', async () => (await j.findAll('rig-legs')).length === 1)
    await j.click('rig-legs')
    await j.press('//li[@role="option"][starts-with(normalize-space(),"neither")]')
    await j.until('no landmarks', async () => (await j.findAll('landmark-neckBase')).length === 0)
    expect(await (await j.find('rig-make')).isEnabled()).toBe(false)
    const picture = await (await j.find('landmarks-side')).getRect()
    /** Clicks on the side's picture, by shares of it. */
    const at = (x: number, y: number) =>
      j.driver
        .actions()
        .move({ x: Math.round(picture.x + picture.width * x), y: Math.round(picture.y + picture.height * y) })
        .click()
        .perform()
    const squares = async () => (await j.driver.findElements(By.css('[data-test="landmarks-side"] rect'))).length
    await j.click('chain-draw')
    for (const [n, [x, y]] of (
      [
        [0.3, 0.45],
        [0.5, 0.46],
        [0.66, 0.45],
      ] as const
    ).entries()) {
      // prettier-ignore
      await at(x, y)
      await j.until('a place', async () => (await squares()) === n + 1)
    }
    expect(await j.text('chain-hint')).toBe('3 places: enough, or go on.')
    await j.click('chain-done')
    expect(await (await j.find('rig-make')).isEnabled()).toBe(true)
    // by keys: the next place is moved with arrows and set with Enter
    await j.click('chain-kind')
    await j.press('//li[@role="option"][normalize-space()="Tail"]')
    await j.click('chain-draw')
    await j.driver.executeScript('document.querySelector(\'[data-test="cross-side"]\').focus()')
    const keys = (...list: string[]) => j.driver.actions().sendKeys(...list).perform() // prettier-ignore
    await keys(...Array.from({ length: 40 }, () => Key.ARROW_LEFT), Key.ENTER)
    await j.until('a place', async () => (await squares()) === 4)
    await keys(...Array.from({ length: 8 }, () => Key.ARROW_LEFT), Key.ENTER)
    await j.until('two', async () => (await squares()) === 5)
    await j.click('chain-done')
    expect(await j.text('rig-dialog')).toMatch(/Trunk, 2 bones[^]*Tail, 1 bone/)
    expect(await j.faults()).toEqual([])
    await j.click('rig-make')
    await j.until('done', async () => (await j.findAll('rig-dialog')).length === 0)
    await j.until('the figure', async () => (await j.text('figure-name')) === 'dog')
    expect(await j.errors()).toEqual([])
  })

  it('says why a mesh gets no bones, and leaves what was there', async () => {
    const flat = join(dirname(await meshFile('any')), 'Sail.obj')
    writeFileSync(flat, 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n')
    await (await j.find('add-mesh')).sendKeys(flat)
    await j.until('why', async () => (await j.text('rig-dialog')).includes('It is flat'))
    expect(await (await j.find('rig-make')).isEnabled()).toBe(false)
    await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    await j.until('gone', async () => (await j.findAll('rig-dialog')).length === 0)
    expect(await j.text('figure-name')).toBe('Maren Quill')
  })

  it('takes motions from elsewhere, keeps them, and knows again which of their bones is which', async () => {
    const bring = async (file: string) => (await j.find('add-motion')).sendKeys(file)
    const stroll = motionFile('Quay stroll', 'walk')
    await bring(stroll)
    await j.until('it', async () => (await j.text('carried')).includes('42 bones follow it'))
    expect(await (await j.find('motion-Quay stroll')).getAttribute('aria-checked')).toBe('true')
    expect(await j.text('carried')).toContain('It goes round.')
    expect(parseFloat(await j.text('number-depth'))).toBeLessThanOrEqual(0.5)
    expect(parseFloat(await j.text('number-slide'))).toBeLessThan(4)
    const still = await picture()
    await j.click('play')
    await j.drawnSince((await j.frames()) + 3)
    await j.click('play')
    expect(await picture()).not.toBe(still)
    // played once it goes along, and may be left on the spot
    await j.click('loop')
    await j.press('//li[normalize-space()="Once"]')
    await j.until('once', async () => (await j.text('carried')).includes('Goes along in the file'))
    // a bone that is wrong: chosen on this figure, its joint on the other
    await j.click('open-match')
    expect(await j.text('sure-leftUpperArm')).toMatch(/^(9\d|100) %$/)
    await j.clickOn(By.css('[data-test="ours-leftHand"]'))
    await j.clickOn(By.css('[data-test="follows-leftHand"] .p-select-clear-icon'))
    await j.click('keep-match')
    await j.until('one bone less', async () => (await j.text('carried')).includes('41 bones follow it'))
    await j.click('open-match')
    await j.clickOn(By.css('[data-test="ours-leftHand"]'))
    await j.clickOn(By.css('[data-test="theirs-Hand.L"]'))
    await j.clickOn(By.css('[data-test="ours-leftToes"]'))
    await j.clickOn(By.css('[data-test="follows-leftToes"] .p-select-clear-icon'))
    await j.clickOn(By.css('[data-test="ours-rightToes"]'))
    await j.clickOn(By.css('[data-test="follows-rightToes"] .p-select-clear-icon'))
    await j.click('keep-match')
    await j.until('another', async () => (await j.text('carried')).includes('40 bones follow it'))
    // it goes into a file and comes from one; that of another skeleton is told
    await j.click('open-match')
    const files = readdirSync(j.downloads)
    await j.click('match-download')
    const match = await j.downloaded('.match.json', files)
    const written = JSON.parse(readFileSync(match, 'utf8')) as { bones: Record<string, string> }
    expect(Object.keys(written.bones)).toHaveLength(40)
    const foreign = join(dirname(stroll), 'foreign.match.json')
    writeFileSync(foreign, JSON.stringify({ ...written, skeleton: '0'.repeat(64) }))
    await (await j.find('match-file')).sendKeys(foreign)
    await j.until('why', async () => (await j.text('match-said')).includes('another skeleton'))
    const { leftFoot: _, ...bones } = written.bones
    writeFileSync(foreign, JSON.stringify({ ...written, bones }))
    await (await j.find('match-file')).sendKeys(foreign)
    await j.click('keep-match')
    await j.until('no foot', async () => (await j.text('motion-said')).includes('No joint is known for “leftFoot”'))
    await j.click('open-match')
    await (await j.find('match-file')).sendKeys(match)
    await j.click('keep-match')
    await j.until('the foot', async () => (await j.text('carried')).includes('40 bones follow it'))
    // the next motion of that skeleton is matched as that one was, also after a reload
    await j.go('/motion')
    await j.find('motion-Quay stroll')
    await bring(motionFile('Quay wait', 'idle'))
    await j.until('the other', async () => (await j.text('carried')).includes('40 bones follow it'))
    expect(await (await j.find('motion-Quay wait')).getAttribute('aria-checked')).toBe('true')
    // what is no motion is told, and nothing is lost
    const odd = join(dirname(stroll), 'odd.bvh')
    writeFileSync(odd, 'HIERARCHY\nROOT a\n{\nOFFSET 0 0\n}\nMOTION\n')
    await bring(odd)
    await j.until('why', async () => (await j.text('motion-said')).includes('The place of “a” is no place'))
    await j.click('remove-motion-Quay wait')
    await j.click('bring-back-motion')
    await j.find('motion-Quay wait')
    const before = readdirSync(j.downloads)
    await j.click('motion-Quay wait')
    await j.click('download-motion')
    const file = new ShippedFile(new Uint8Array(readFileSync(await j.downloaded('.glb', before))))
    expect(file.clips().map((c) => c.name)).toEqual(['Quay wait'])
    // the figure takes it along beside its own clips, and not the other
    await j.walk('/ship')
    await j.press('//*[@data-test="ship-motions"]//label[contains(., "Quay wait")]')
    const shipped = readdirSync(j.downloads)
    await j.until('the figure', async () => (await j.find('ship-figure')).isEnabled())
    await j.click('ship-figure')
    const along = new ShippedFile(new Uint8Array(readFileSync(await j.downloaded('.glb', shipped))))
    expect(along.clips().map((c) => c.name)).toEqual(['Idle', 'Walk', 'Quay wait'])
    // as its target wants: every key there is, and going along
    await j.click('edit-target')
    await j.click('travels')
    const tolerance = await (await j.find('key-tolerance')).findElements(By.css('input'))
    await (tolerance[0] ?? (await j.find('key-tolerance'))).sendKeys('0', Key.TAB)
    const shippedBefore = readdirSync(j.downloads)
    await j.until('the figure', async () => (await j.find('ship-figure')).isEnabled())
    await j.click('ship-figure')
    const going = new ShippedFile(new Uint8Array(readFileSync(await j.downloaded('.glb', shippedBefore))))
    const walk = going.clips().find((c) => c.name === 'Walk')!
    const root = (time: number) => going.at({ clip: walk, time }).world[going.jointsOf(0)[0]!]!.elements[14]!
    expect(root(walk.duration) - root(0)).toBeGreaterThan(0.5)
    const keys = (file: ShippedFile) => file.clips()[0]!.channels.reduce((sum, c) => sum + c.times.length, 0)
    expect(keys(going)).toBeGreaterThan(2 * keys(along))
    await j.click('undo')
    await j.click('undo')
    await j.click('edit-target')
    expect(await j.errors()).toEqual([])
  })

  it('plays a clip by its dials, in one step of undo each, and trims it', async () => {
    await j.until('the walk', async () => (await (await j.find('clip-walk')).getAttribute('aria-checked')) === 'true')
    expect(await j.text('clip-walk')).toContain('1.0 s')
    await (await (await j.find('dials')).findElement(By.css('summary'))).click()
    const knob = async (dial: string, which = 0) =>
      (await (await j.find(dial)).findElements(By.css('[role="slider"]')))[which]!
    await (await knob('dial-pace')).sendKeys(Key.END)
    await j.until('twice as fast', async () => (await j.text('clip-walk')).includes('0.5 s'))
    await (await knob('dial-trim', 1)).sendKeys(...Array.from({ length: 20 }, () => Key.ARROW_LEFT))
    await j.until('less of it', async () => !(await j.text('clip-walk')).includes('0.5 s'))
    await j.click('undo')
    await j.until('all of it', async () => (await j.text('clip-walk')).includes('0.5 s'))
    await j.click('undo')
    await j.until('as made', async () => (await j.text('clip-walk')).includes('1.0 s'))
    await j.click('dial-mirrored')
    await j.until('a way back', async () => (await j.findAll('dials-reset')).length === 1)
    await j.click('dials-reset')
    await j.until('no way back needed', async () => (await j.findAll('dials-reset')).length === 0)
    expect(await j.errors()).toEqual([])
  })

  it('opens with a gulper’s hop, and says what of its bones each level leaves out', async () => {
    await j.walk('/bench')
    await j.click('figure-name')
    await j.press('//div[@data-test="figure-list"]//button[contains(., "Tick")]')
    await j.until('Tick', async () => (await j.text('figure-name')).startsWith('Tick'))
    await j.walk('/motion')
    await j.until(
      'its hop',
      async () => (await (await j.find('clip-hopper-hop')).getAttribute('aria-checked')) === 'true',
    )
    await j.until('its levels', async () => (await j.text('detail-crowd')).includes('Leaves out tongue, even twists.'))
    expect(await j.text('detail-near')).toContain('Leaves out even twists.')
    expect(await j.text('detail-full')).toContain('Every bone there is.')
    await j.click('clip-rest')
    await j.until('at rest', async () => (await (await j.find('clip-rest')).getAttribute('aria-checked')) === 'true')
    expect(await j.errors()).toEqual([])
  })

  it('changes how much skeleton there is, by hand and by keys', async () => {
    await j.click('detail-crowd')
    await j.until('22 bones', async () => (await j.gauge('bones')) === 22)
    await j.driver.actions().sendKeys(Key.ARROW_UP).perform()
    await j.until('more bones', async () => (await j.gauge('bones')) > 22)
    expect(await (await j.find('detail-standard')).getAttribute('aria-checked')).toBe('true')
    await j.driver.actions().sendKeys(Key.END).perform()
    await j.until('13 bones', async () => (await j.gauge('bones')) === 13)
    expect(await j.text('tried-skeleton')).toContain('Tried here alone')
    await j.click('drop-skeleton')
    await j.until('its own', async () => (await j.gauge('bones')) === 45)
  })

  it('tries another number of bones for a tail, keeps it in the target, and leaves what is only tried behind', async () => {
    await j.walk('/bench')
    await j.click('figure-name')
    await j.press('//div[@data-test="figure-list"]//button[contains(., "Brother Eel")]')
    await j.until('Brother Eel', async () => (await j.text('figure-name')).startsWith('Brother Eel'))
    await j.walk('/motion')
    await j.until('his bones', async () => (await j.gauge('bones')) === 29)
    const count = await (await j.find('chain-tail')).findElement(By.css('input'))
    await count.sendKeys(Key.chord(Key.CONTROL, 'a'), '7', Key.TAB)
    await j.until('three more', async () => (await j.gauge('bones')) === 32)
    await j.walk('/bench')
    await j.until('as many as ever', async () => (await j.gauge('bones')) === 29)
    await j.walk('/motion')
    await j.click('detail-full')
    await j.until('twists', async () => (await j.gauge('bones')) === 37)
    await j.click('keep-skeleton')
    await j.until('kept', async () => (await j.findAll('tried-skeleton')).length === 0)
    await j.walk('/bench')
    await j.until('still there', async () => (await j.gauge('bones')) === 37)
    // the figure is what is worked on, not its target
    expect(await j.findAll('open-target')).toEqual([])
    await j.walk('/ship')
    await j.click('edit-target')
    expect(await j.findAll('target-chain')).toEqual([])
    await j.click('edit-target')
    await j.walk('/motion')
    await j.click('detail-near')
    await j.click('keep-skeleton')
    await j.until('as it was', async () => (await j.gauge('bones')) === 29)

    // it swings where it is let, in steps of the figure's own
    await j.clickOn(By.css('[data-test="swings-tail"] input, input[data-test="swings-tail"]'))
    const gravity = await j.findAt(By.css('[data-test="spring-tail-gravity"] [role="slider"]'))
    await gravity.sendKeys(Key.END)
    await j.until('as strongly as it goes', async () => (await gravity.getAttribute('aria-valuenow')) === '2')
    await j.saved()
    await j.click('undo')
    await j.until('as usual', async () => (await gravity.getAttribute('aria-valuenow')) === '0.15')
    await j.click('undo')
    await j.until('it swings no more', async () => (await j.findAll('spring-tail-gravity')).length === 0)
    expect(await j.errors()).toEqual([])
  })
})

describe('a long visit', () => {
  // the long run, by hand: TINKER_VISITS=60 TINKER_FIGURES=200
  const visits = Number(process.env.TINKER_VISITS ?? 15)
  const figures = Number(process.env.TINKER_FIGURES ?? 12)

  it(`keeps the memory of the page flat over ${visits} visits of stations and ${figures} figures opened`, async () => {
    const heap = async () => {
      await j.devtools('HeapProfiler.collectGarbage')
      const { usedSize, backingStorageSize } = (await j.devtools('Runtime.getHeapUsage')) as {
        usedSize: number
        /** Of arrays of numbers, which do not lie in the heap itself. */
        backingStorageSize: number
      }
      return (usedSize + backingStorageSize) / 1e6
    }
    // pictures on their way come and go: the least of a few seconds is what stays
    const settled = async () => {
      const readings: number[] = []
      for (let i = 0; i < 5; i++) {
        readings.push(await heap())
        await j.driver.sleep(800)
      }
      return Math.min(...readings)
    }
    const stations = ['/motion', '/crowd', '/kits', '/ship', '/bench']
    const visit = async (count: number) => {
      for (let i = 0; i < count; i++) {
        await j.walk(stations[i % stations.length]!)
        if (i % stations.length === 4) await picture()
      }
    }
    // by a script: an element that the driver has once found it keeps, with all around it, for as long as the page lives
    const openFigures = async (count: number) => {
      for (let i = 0; i < count; i++) {
        await j.click('figure-name')
        let name = ''
        await j.until('the list', async () => {
          name = await j.driver.executeScript<string>(
            `const rows = document.querySelectorAll('[data-test="figure-list"] button.pick')
             const row = rows[arguments[0] % rows.length]
             row?.click()
             return row?.textContent.trim() ?? ''`,
            i,
          )
          return name !== ''
        })
        await j.until(name, async () => (await j.text('figure-name')).startsWith(name))
      }
    }
    // what is kept on purpose is there after the first rounds: both kits, pictures, what is worked out of every figure's parts
    await visit(10)
    await openFigures(figures)
    const before = await settled()
    await visit(visits)
    await openFigures(figures)
    // 1 to 2 MB come and go; with the views of the figures kept it was 8.9, with the stages kept 6.1
    expect(await settled()).toBeLessThan(before + 4)
  })
})
