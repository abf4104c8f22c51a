import { readFileSync } from 'node:fs'
import { By, Key } from 'selenium-webdriver'
import { Vector3 } from 'three'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { ShippedFile } from '../../packages/core/src/ship/ShippedFile.ts'
import { Journey } from './browser.ts'

let j: Journey

beforeAll(async () => {
  j = await Journey.start()
})
afterAll(() => j.stop())
beforeEach(async () => {
  await j.begin('/motion')
  await j.press('//*[@data-test="clips-or-poses"]//*[text()="Poses"]')
  await j.find('handle-end-leftHand')
  // these come last, and push what is below them down
  await j.find('pose-kit sitting')
})

/** Where a handle is on the screen, pixels. */
async function placeOf(handle: string): Promise<{ x: number; y: number }> {
  const { x, y, width, height } = await (await j.find(`handle-${handle}`)).getRect()
  return { x: x + width / 2, y: y + height / 2 }
}
async function drag(handle: string, x: number, y: number): Promise<void> {
  const from = await placeOf(handle)
  const to = (share: number) => ({ x: Math.round(from.x + x * share), y: Math.round(from.y + y * share) })
  const actions = j.driver.actions({ async: true })
  await actions.move(to(0)).press().move(to(0.4)).move(to(1)).release().perform()
}
const apart = (a: { x: number; y: number }, b: { x: number; y: number }) => Math.hypot(a.x - b.x, a.y - b.y)
const near = (handle: string, place: { x: number; y: number }, pixels = 4) =>
  j.until(`${handle} there`, async () => apart(await placeOf(handle), place) < pixels)
const choose = async (pose: string) => {
  await j.click(`pose-${pose}`)
  const chosen = async () => (await (await j.find(`pose-${pose}`)).getAttribute('aria-checked')) === 'true'
  await j.until(pose, chosen)
}
const own = () => j.text('own-pose')

describe('posing a figure', () => {
  it('drags a hand of a pose that is ready, keeps it as a pose of one’s own, takes it back, and ships it as the pose of rest', async () => {
    await choose('kit sitting')
    await near('root-hips', await placeOf('root-hips'), 1)
    const [hand, foot] = [await placeOf('end-leftHand'), await placeOf('end-leftFoot')]
    await drag('end-leftHand', 50, -110)
    await j.until('a pose of one’s own', async () => (await own()) === 'Sitting 2')
    // it is where the hand has put it, and the feet have not moved
    await near('end-leftHand', { x: hand.x + 50, y: hand.y - 110 })
    expect(apart(await placeOf('end-leftFoot'), foot)).toBeLessThan(1.5)
    await j.saved()
    const [raised, hips] = [await placeOf('end-leftHand'), await placeOf('root-hips')]
    await drag('root-hips', 0, -25)
    await j.until('higher', async () => (await placeOf('root-hips')).y < hips.y - 10)
    expect(apart(await placeOf('end-leftFoot'), foot)).toBeLessThan(2)
    await j.click('undo')
    await near('root-hips', hips)
    await near('end-leftHand', raised)
    await j.click('redo')
    await j.until('higher again', async () => (await placeOf('root-hips')).y < hips.y - 10)
    await j.click('undo')
    await j.saved()

    // another visit finds it, and its file can stand so
    await j.go('/ship')
    await j.click('edit-target')
    await j.click('target-rest')
    await j.press('//li[contains(., "Yours: Sitting 2")]')
    await j.saved()
    await j.click('ship-figure')
    const file = new ShippedFile(new Uint8Array(readFileSync(await j.downloaded('.glb'))))
    const at = (name: string) => {
      const node = file.nodes.findIndex((n) => n.name === name)
      return new Vector3().setFromMatrixPosition(file.at().world[node]!)
    }
    expect(at('leftHand').y - at('rightHand').y).toBeGreaterThan(0.12)
    const tops = file.posed(file.drawn()[0]!, file.at()).filter((_, i) => i % 3 === 1)
    expect(Math.min(...tops)).toBeCloseTo(0, 3)
    expect(Math.max(...tops)).toBeLessThan(1.65)
    expect(await j.text('checks')).toMatch(/Its feet are at the ground/)
    expect(await j.errors()).toEqual([])
  })

  it('is moved by keys, on both sides alike, and turned joint by joint', async () => {
    await choose('hanging')
    await j.click('pose-both')
    const [left, right] = [await placeOf('end-leftHand'), await placeOf('end-rightHand')]
    const handle = await j.find('handle-end-leftHand')
    for (let n = 0; n < 5; n++) await handle.sendKeys(Key.ARROW_UP)
    await j.until('a pose of one’s own', async () => (await own()).startsWith('Arms hanging'))
    await j.until('both hands higher', async () => {
      const [l, r] = [await placeOf('end-leftHand'), await placeOf('end-rightHand')]
      return l.y < left.y - 15 && r.y < right.y - 15
    })
    await j.saved()
    const head = await placeOf('look-head')
    await j.click('handle-look-head')
    const turn = await (await j.find('turn-1')).findElement(By.css('[role="slider"]'))
    for (let n = 0; n < 12; n++) await turn.sendKeys(Key.ARROW_RIGHT)
    await j.until('it looks aside', async () => (await placeOf('look-head')).x > head.x + 4)
    await j.click('mirror-pose')
    await j.until('to the other side', async () => (await placeOf('look-head')).x < head.x - 4)
    await j.click('undo')
    await j.until('and back', async () => (await placeOf('look-head')).x > head.x + 4)
    await j.saved()
    expect(await j.faults()).toEqual([])
    expect(await j.errors()).toEqual([])
  })

  it('takes a moment of a clip as a pose, renames it, removes it and brings it back', async () => {
    await j.press('//*[@data-test="clips-or-poses"]//*[text()="Clips"]')
    await j.click('clip-cheer')
    await j.find('play')
    await j.click('take-pose')
    await j.until('taken', async () => (await own()) === 'Cheer 2')
    await j.click('pose-name')
    await (await j.find('pose-name-field')).sendKeys(Key.chord(Key.CONTROL, 'a'), 'Home at last', Key.ENTER)
    await j.until('renamed', async () => (await own()) === 'Home at last')
    await j.saved()
    await j.click('remove-pose')
    await j.until('gone', async () => (await j.findAll('own-pose')).length === 0)
    await j.click('bring-back-pose')
    await j.until('back', async () => (await own()) === 'Home at last')
    expect(await j.errors()).toEqual([])
  })

  it('tells that a pose is not kept while the server is away, shows it all the same, and keeps it when asked again', async () => {
    await choose('t')
    await j.driver.executeScript(
      'window.realFetch = window.fetch; window.fetch = (...a) => String(a[0]).includes("/api/documents/pose") ? Promise.reject(new TypeError("away")) : window.realFetch(...a)',
    )
    const hand = await placeOf('end-leftHand')
    await drag('end-leftHand', -20, -60)
    await j.find('keep-pose')
    expect(await j.text('pose-said')).toMatch(/does not answer/)
    await near('end-leftHand', { x: hand.x - 20, y: hand.y - 60 }, 8)
    await j.driver.executeScript('window.fetch = window.realFetch')
    await j.click('keep-pose')
    await j.until('kept', async () => (await own()) === 'T 2')
    await near('end-leftHand', { x: hand.x - 20, y: hand.y - 60 }, 8)
    expect(await j.findAll('keep-pose')).toEqual([])
  })
})
