import { By, Key } from 'selenium-webdriver'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { Journey } from './browser.ts'

let j: Journey

beforeAll(async () => void (j = await Journey.start()))
afterAll(() => j.stop())
beforeEach(() => j.begin('/bench'))

/** Presses somewhere on the stage, pixels from its middle; drags on from there if told. */
async function press(x: number, y: number, ...along: [x: number, y: number][]): Promise<void> {
  const origin = await j.find('stage')
  let hand = j.driver.actions().move({ origin, x, y }).press()
  for (const [toX, toY] of along) hand = hand.move({ origin, x: toX, y: toY, duration: 60 })
  await hand.release().perform()
}
const placed = async () => (await j.driver.findElements(By.css('[data-test="placed"] .one'))).length
const tray = (name: string) => j.press(`//*[@data-test="tray-of"]//button[normalize-space()="${name}"]`)
/** The figure as the server keeps it. */
async function kept(): Promise<{
  parts: { id: string; place?: { at?: object; scale?: unknown; mirrored?: boolean } }[]
  nudges?: { on?: string; points: number[] }[]
}> {
  await j.saved()
  const name = (await j.text('figure-name')).trim()
  const figures = await j.driver.executeAsyncScript<{ name: string; content: never }[]>(
    'const done = arguments[0]; fetch("/api/documents/figure").then((a) => a.json()).then(done)',
  )
  return figures.find((f) => f.name === name)!.content
}

describe('hands on the Bench', () => {
  it('place three eyes on an ottern, move one, put one on the other side, and take it back step by step', async () => {
    await j.click('figure-name')
    await j.click('new-ottern')
    await j.until('the ottern', async () => (await j.text('figure-name')).startsWith('New ottern'))
    await j.clickOn(By.css('[data-test="row-growths"] .main'))
    const before = await j.gauge('triangles')
    for (const [n, [x, y]] of (
      [
        [0, -170],
        [30, -40],
        [-20, 20],
      ] as const
    ).entries()) {
      await j.click('choice-eye-more')
      await j.until('one more', async () => (await placed()) === n + 1)
      await j.find('placing')
      await press(x, y)
      await j.until('it is set', async () => (await j.findAll('placing')).length === 0)
    }
    await j.until('all count', async () => (await j.gauge('triangles')) > before + 200)
    const spots = (await kept()).parts.filter((p) => p.id.startsWith('growths')).map((p) => JSON.stringify(p.place))
    expect(new Set(spots).size).toBe(3)

    // the last one is dragged along the belly, then goes on by keys
    await press(-20, 20, [-10, 40], [0, 60], [10, 80])
    const moved = async () => JSON.stringify((await kept()).parts.find((p) => p.id === 'growths-3')!.place)
    await j.until('it has moved', async () => (await moved()) !== spots[2])
    const dragged = await moved()
    const row = await j.findAt(By.css('[data-test="placed-growths-3"] .main'))
    await row.sendKeys(Key.ARROW_RIGHT)
    await row.sendKeys(Key.ARROW_UP)
    await j.until('it has moved on', async () => (await moved()) !== dragged)

    await j.click('across-growths-2')
    await j.until('its twin', async () => (await placed()) === 4)
    expect((await kept()).parts.find((p) => p.id === 'growths-4')!.place).toMatchObject({ mirrored: true })
    await j.click('undo')
    await j.until('no twin', async () => (await placed()) === 3)
    await j.go('/bench')
    await j.clickOn(By.css('[data-test="row-growths"] .main'))
    await j.until('all three after a reload', async () => (await placed()) === 3)
    expect(await j.text('part-growths')).toBe('3 growths')
    expect(await j.errors()).toEqual([])
  })

  it('set a brooch on a coat, and say so when the coat goes', async () => {
    await j.clickOn(By.css('[data-test="row-trims"] .main'))
    await j.click('choice-trim-brooch')
    await j.find('placing')
    await press(36, -100)
    await j.until('on the coat', async () => (await j.text('placed')).includes('on Quay master’s coat'))
    expect((await kept()).parts.find((p) => p.id === 'trims')!.place!.at).toMatchObject({
      on: { part: 'coat-quay' },
    })
    await j.click('clear-over')
    await j.until('it is told', async () => (await j.text('told')).includes('is left off'))
    await j.click('undo')
    await j.until('all is well', async () => (await j.findAll('told')).length === 0)
  })

  it('nudge coat and body, see where, undo, and bring back', async () => {
    await tray('Nudge')
    await press(30, -40, [45, -40], [60, -40], [80, -40])
    await j.until('the coat is nudged', async () => (await j.text('nudge-panel')).includes('Quay master’s coat'))
    const first = (await kept()).nudges!
    expect(first).toHaveLength(1)
    expect(first[0]!.points.length).toBeGreaterThan(5)
    await j.click('undo')
    await j.until('it is gone', async () => (await j.findAll('nudged')).length === 0)
    await j.click('redo')
    await j.find('nudged')

    // beside the figure the stage is turned as ever
    const frames = await j.frames()
    await press(-280, -100, [-240, -100], [-200, -100])
    await j.drawnSince(frames)
    expect((await kept()).nudges).toEqual(first)

    // the face is bare skin: it is the body's; smooth by keys, at the place the brush was last
    await j.press('//button[@aria-label="Look from: Face"]')
    await j.click('brush-swell')
    await press(0, 40)
    await j.until('the head is nudged', async () => (await j.text('nudge-panel')).includes('Head'))
    await j.find('unnudge-head')
    const keys = await j.find('brush-keys')
    const points = async () => JSON.stringify((await kept()).nudges)
    const now = await points()
    await keys.sendKeys(Key.ARROW_UP)
    await keys.sendKeys(Key.chord(Key.SHIFT, Key.ARROW_RIGHT))
    await j.until('pulled by keys', async () => (await points()) !== now)
    await j.click('unnudge-head')
    await j.until('the head is back', async () => (await j.findAll('unnudge-head')).length === 0)
    await j.go('/bench')
    await tray('Nudge')
    await j.until('the coat stays nudged', async () => (await j.text('nudged')).includes('Quay master’s coat'))
    expect(await j.errors()).toEqual([])
  })
})

describe('fingers and a pen', () => {
  const value = async (id: string) => Number((await j.text(`value-${id}`)).trim())
  type At = readonly [x: number, y: number]
  /** Fingers on the screen from now on; none: all are raised. */
  const fingers = (type: 'touchStart' | 'touchMove' | 'touchEnd', ...at: At[]) =>
    j.devtools('Input.dispatchTouchEvent', { type, touchPoints: at.map(([x, y], id) => ({ x, y, id })) })
  const pen = (type: string, [x, y]: At) =>
    j.devtools('Input.dispatchMouseEvent', {
      ...{ type, x, y, pointerType: 'pen', clickCount: 1 },
      ...{ button: type === 'mouseMoved' ? 'none' : 'left', buttons: type === 'mouseReleased' ? 0 : 1 },
    })
  /** The middle of something, and places beside it. */
  const middleOf = async (test: string) => {
    const { x, y, width, height } = await (await j.find(test)).getRect()
    return (right = 0, down = 0): At => [x + width / 2 + right, y + height / 2 + down]
  }

  it('pull, while a second finger changes nothing', async () => {
    await j.unfold('torso')
    const before = await value('shoulders')
    const [tab, stage] = [await middleOf('pull-shoulders'), await middleOf('stage')]
    await fingers('touchStart', tab())
    await fingers('touchMove', tab(12))
    await j.until('wider', async () => (await value('shoulders')) > before + 0.02)
    const wider = await value('shoulders')
    await fingers('touchStart', tab(12), stage(-250, -120))
    await fingers('touchMove', tab(12), stage(-90, 60))
    await fingers('touchMove', tab(20), stage(-60, 80))
    await j.until('wider still', async () => (await value('shoulders')) > wider)
    await fingers('touchEnd')
    // 20 pixels are less than twice 12: the other finger went 200
    expect(await value('shoulders')).toBeLessThan(wider + (wider - before))
    await j.click('undo')
    await j.until('in one step', async () => Math.abs((await value('shoulders')) - before) < 1e-6)
  })

  it('nudge, turn the stage, and bring it nearer with two fingers', async () => {
    await tray('Nudge')
    const stage = await middleOf('stage')
    await pen('mouseMoved', stage(30, -40))
    await pen('mousePressed', stage(30, -40))
    for (const x of [45, 60, 80]) await pen('mouseMoved', stage(x, -40))
    await pen('mouseReleased', stage(80, -40))
    await j.until('the coat is nudged', async () => (await j.text('nudge-panel')).includes('Quay master’s coat'))
    const nudged = (await kept()).nudges!
    expect(nudged[0]!.points.length).toBeGreaterThan(5)

    await tray('Shape')
    await j.unfold('torso')
    /** Where a handle stands, pixels. */
    const at = async (id: string) => (await j.find(`pull-${id}`)).getRect()
    const tall = async () => (await at('waist')).y - (await at('shoulders')).y
    const before = await tall()
    // beside the figure, where no handle can come under a finger
    await fingers('touchStart', stage(-240, -60), stage(-240, 60))
    for (const far of [70, 80, 90]) await fingers('touchMove', stage(-240, -far), stage(-240, far))
    await fingers('touchEnd')
    await j.until('nearer', async () => (await tall()) > before * 1.2)
    const drawn = () =>
      j.driver.executeScript<string>(`return document.querySelector('[data-test="stage"]').toDataURL()`)
    const near = await drawn()
    await fingers('touchStart', stage(-280, -60))
    for (const x of [-270, -255, -240]) await fingers('touchMove', stage(x, -60))
    await fingers('touchEnd')
    await j.until('turned', async () => (await drawn()) !== near)
    // turning and nearing are no strokes
    expect((await kept()).nudges).toEqual(nudged)
    expect(await j.errors()).toEqual([])
  })
})

describe('the way back', () => {
  it('keeps a snapshot to look at beside the figure, tells what differs, and goes back to it as a step', async () => {
    const before = await j.text('part-hat')
    await j.click('steps')
    await j.click('snap')
    await j.findAt(By.css('[data-test="snapshots"] img'))
    await j.click('rename-snapshot')
    await (await j.find('rename-snapshot-field')).sendKeys('In her hat', Key.ENTER)
    await j.until('its name', async () => (await j.text('snapshots')).includes('In her hat'))
    await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    await j.click('clear-hat')
    await j.clickOn(By.css('[data-test="row-over"] .main'))
    await j.click('choice-jacket-short')
    await j.until('the jacket', async () => (await j.text('part-over')) === 'Pea jacket')
    await j.saved()

    // it is there after a reload too: the server keeps it
    await j.go('/bench')
    await j.click('steps')
    expect(await j.text('snapshots')).toContain('In her hat')
    await j.clickOn(By.css('[data-test="snapshots"] .picture'))
    await j.until('what differs', async () => (await j.text('differences')).includes('Pea jacket'))
    expect(await j.text('differences')).toContain('Headwear: off')
    const frames = async () =>
      Promise.all(
        ['beside-left', 'beside-right'].map(async (t) => Number(await (await j.find(t)).getAttribute('data-frames'))),
      )
    await j.until('both are drawn', async () => (await frames()).every((n) => n > 0))
    const seen = () =>
      j.driver.executeScript<string[]>(
        'return ["left", "right"].map((s) => document.querySelector(`[data-test="beside-${s}"]`).toDataURL())',
      )
    await j.driver.sleep(600)
    // a frame may have been drawn before its figure was there
    await j.until('two figures', async () => new Set(await seen()).size === 2)
    const still = await seen()
    const origin = await j.find('beside-left')
    await j.driver.actions().move({ origin }).press().move({ origin, x: 90 }).release().perform()
    await j.until('both have turned', async () => (await seen()).every((picture, i) => picture !== still[i]))
    await j.click('back-to')
    await j.until('the hat is back', async () => (await j.text('part-hat')) === before)
    await j.click('undo')
    await j.until('going back was a step', async () => (await j.text('part-over')) === 'Pea jacket')
    expect(await j.errors()).toEqual([])
  })

  it('makes a starting look, and a new figure from it', async () => {
    await j.click('figure-name')
    await j.click('make-look')
    await j.click('from-Maren Quill')
    await j.until('a new one', async () => (await j.text('figure-name')).startsWith('New Maren Quill'))
    expect(await j.text('part-over')).toBe('Quay master’s coat')
    await j.click('figure-name')
    await j.click('rename-look')
    const field = await j.find('rename-look-field')
    await field.sendKeys('Nobody', Key.ESCAPE)
    await j.click('rename-look')
    await (await j.find('rename-look-field')).sendKeys('Harbour folk', Key.ENTER)
    await j.find('from-Harbour folk')
    await j.press('//*[@aria-label="Drop the look Harbour folk"]')
    await j.until('it is no look any more', async () => (await j.findAll('from-Harbour folk')).length === 0)
  })
})

describe('ways to look', () => {
  const drawn = () => j.driver.executeScript<string>(`return document.querySelector('[data-test="stage"]').toDataURL()`)

  it('show facets, net, regions and what has changed, each otherwise, and the figure as it was made again', async () => {
    await j.drawnSince(0)
    const seen = new Map<string, string>()
    await j.click('looks')
    for (const kind of ['facets', 'smooth', 'wire', 'regions', 'changes', 'made']) {
      const frames = await j.frames()
      await j.click(`look-${kind}`)
      await j.drawnSince(frames)
      if (kind === 'changes') {
        const before = seen.get('regions')
        await j.until('the ramp', async () => (await drawn()) !== before)
      }
      await j.driver.sleep(400)
      seen.set(kind, await drawn())
    }
    for (const [a, one] of seen) for (const [b, two] of seen) if (a < b) expect(one === two, `${a} as ${b}`).toBe(false)
    await j.click('look-regions')
    expect(await j.text('legend')).toContain('Head')
  })

  it('show the whole cast at one scale, as outlines, all in one hat, and open one of them', async () => {
    await j.click('cast')
    await j.until('everybody', async () => (await j.driver.findElements(By.css('.line .one img'))).length >= 5)
    const tall = async (name: string) =>
      Number(/(\d\.\d\d) m/.exec(await (await j.findAt(By.xpath(`//*[b="${name}"]`))).getText())?.[1])
    const heights = [await tall('Maren Quill'), await tall('Brother Eel')]
    // a woman in a hat is taller than an ottern
    expect(heights[0]! - heights[1]!).toBeGreaterThan(0.2)
    await j.clickOn(By.css('[data-test="cast-dialog"] label'))
    await j.findAt(By.css('.line img.outline'))
    await j.press('//*[@data-test="cast-dialog"]//b[text()="Brother Eel"]')
    await j.until('he is open', async () => (await j.text('figure-name')).startsWith('Brother Eel'))
    expect(await j.errors()).toEqual([])
  })

  it('nudge one side alone, which is told, and even it out', async () => {
    await tray('Nudge')
    await j.click('brush-mirrored')
    await j.press('//button[@aria-label="Look from: Face"]')
    await j.click('brush-swell')
    await press(25, 40)
    await j.until('the head is nudged', async () => (await j.text('nudge-panel')).includes('Head'))
    const [one] = (await kept()).nudges!
    await tray('Shape')
    await j.until('it is told', async () => (await j.text('uneven')).includes('what was nudged'))
    await j.click('even-out')
    await j.until('even', async () => (await j.findAll('uneven')).length === 0)
    const [both] = (await kept()).nudges!
    expect(both!.points.length).toBeGreaterThan(one!.points.length)
    await j.click('undo')
    await j.until('as it was', async () => (await j.findAll('uneven')).length === 1)
    expect(await j.errors()).toEqual([])
  })
})
