import { readFileSync } from 'node:fs'
import { By, Key, Origin, type WebElement } from 'selenium-webdriver'
import { Vector3 } from 'three'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { readClip } from '@idle-tinker/core'
import { ShippedFile } from '../../packages/core/src/ship/ShippedFile.ts'
import { Journey } from './browser.ts'

let j: Journey

beforeAll(async () => {
  j = await Journey.start()
})
afterAll(() => j.stop())
beforeEach(async () => {
  await j.begin('/motion')
  await j.click('make-clip')
  await j.find('handle-end-leftHand')
})

async function placeOf(handle: string): Promise<{ x: number; y: number }> {
  const { x, y, width, height } = await (await j.find(`handle-${handle}`)).getRect()
  return { x: x + width / 2, y: y + height / 2 }
}
async function draw(on: WebElement, x: number, y: number, steps = 2, ms = 50): Promise<void> {
  const actions = j.driver.actions({ async: true }).move({ origin: on }).press()
  for (let i = 0; i < steps; i++)
    actions.move({ origin: Origin.POINTER, x: Math.round(x / steps), y: Math.round(y / steps), duration: ms })
  await actions.release().perform()
}
const apart = (a: { x: number; y: number }, b: { x: number; y: number }) => Math.hypot(a.x - b.x, a.y - b.y)
/** Brings the clip to a share of its time by a press on its line. */
async function standAt(share: number, duration = 2): Promise<void> {
  const line = await j.find('key-line')
  const { width, height } = await line.getRect()
  const at = { origin: line, x: Math.round(width * (share - 0.5)), y: Math.round(7 - height / 2) }
  await j.driver.actions().move(at).press().release().perform()
  await j.until('the clip stands there', async () => {
    const time = Number.parseFloat(await j.text('key-time'))
    return Math.abs(time - duration * share) < 0.015 * duration
  })
}
async function makeLong(seconds: number): Promise<void> {
  const field = await j.findAt(By.css('[data-test="clip-length"] input, input[data-test="clip-length"]'))
  await field.sendKeys(Key.chord(Key.CONTROL, 'a'), String(seconds), Key.ENTER)
  await j.until('its line is as long', async () => {
    return Number(await (await j.find('key-line')).getAttribute('aria-valuemax')) === seconds
  })
}
const beads = async (track: 'poses' | 'faces') => {
  const names: string[] = []
  for (let i = 0; ; i++) {
    const [bead] = await j.findAll(`key-${track}-${i}`)
    if (!bead) return names
    names.push((await bead.getAttribute('aria-label')) ?? '')
  }
}
const timesOf = async (track: 'poses' | 'faces') =>
  (await beads(track)).map((name) => Number.parseFloat(/at ([\d.]+) s/.exec(name)![1]!))

describe('a clip of keys', () => {
  it('has a key for what a hand does to figure and face, plays, is there the next time, and ships', async () => {
    const rest = await placeOf('end-leftHand')
    await standAt(0.5)
    await draw(await j.find('handle-end-leftHand'), 10, -110)
    await j.until('a second key', async () => (await timesOf('poses')).length === 2)
    expect((await timesOf('poses'))[1]).toBeCloseTo(1, 1)
    const raised = await placeOf('end-leftHand')
    expect(apart(raised, { x: rest.x + 10, y: rest.y - 110 })).toBeLessThan(5)
    // half-way between is half-way
    await standAt(0.25)
    const middle = await placeOf('end-leftHand')
    expect(apart(middle, rest)).toBeGreaterThan(25)
    expect(apart(middle, raised)).toBeGreaterThan(25)
    await standAt(0.5)
    await draw(await j.find('mood-knob'), 0, -70)
    await j.until('a key of the face', async () => (await timesOf('faces')).length === 1)
    expect(await j.text('key-face')).toMatch(/0\.\d\d|1\.00/)
    // as it plays, nothing is in the way of looking
    await j.click('play-keys')
    const before = await j.frames()
    await j.drawnSince(before)
    expect(await j.findAll('handle-end-leftHand')).toHaveLength(0)
    await j.click('play-keys')
    await j.saved()

    await j.go('/ship')
    await j.press('//*[@data-test="ship-motions"]//label[contains(., "New clip")]//input')
    await j.click('ship-figure')
    const file = new ShippedFile(new Uint8Array(readFileSync(await j.downloaded('.glb'))))
    const clip = file.clips().find((c) => c.name === 'New clip')!
    const hand = file.nodes.findIndex((n) => n.name === 'leftHand')
    const at = (time: number) => new Vector3().setFromMatrixPosition(file.at({ clip, time }).world[hand]!)
    expect(at(1).y - at(0).y).toBeGreaterThan(0.25)
    const face = clip.channels.find((c) => c.path === 'weights')!
    expect(Math.max(...face.values)).toBeGreaterThan(0.4)
    expect(await j.errors()).toEqual([])
  })

  it('takes up what a hand does while it is recorded, as one step', async () => {
    // a hand that is late on a slow machine is still in time
    await makeLong(6)
    await j.click('record')
    await draw(await j.find('handle-end-rightHand'), -40, -140, 8, 90)
    await j.until('it has come to its end', async () => (await j.text('record')) === 'Record')
    await j.until('keys of what was done', async () => (await timesOf('poses')).length > 3)
    const times = await timesOf('poses')
    expect(times).toEqual([...times].sort((a, b) => a - b))
    await standAt(0, 6)
    const low = await placeOf('end-rightHand')
    await standAt(times.at(-1)! / 6, 6)
    expect(low.y - (await placeOf('end-rightHand')).y).toBeGreaterThan(100)
    await j.click('undo')
    await j.until('as before', async () => (await timesOf('poses')).length === 1)
    expect(Number(await (await j.find('key-line')).getAttribute('aria-valuemax'))).toBe(6)
    await j.click('undo')
    await j.until('nothing is left to undo', async () => !(await (await j.find('undo')).isEnabled()))
  })

  it('goes by keys alone: a key is moved, eased, copied and removed, and the clip made longer', async () => {
    await standAt(0.5)
    const hand = await j.find('handle-end-leftHand')
    await hand.sendKeys(Key.ARROW_UP)
    await j.until('a second key', async () => (await timesOf('poses')).length === 2)
    const second = async () => j.find('key-poses-1')
    const start = (await timesOf('poses'))[1]!
    await (await second()).sendKeys(Key.ARROW_RIGHT, Key.ARROW_RIGHT)
    await j.until('later', async () => Math.abs((await timesOf('poses'))[1]! - start - 0.1) < 0.011)
    await j.click('key-ease')
    await j.press('//li[contains(., "held")]')
    await j.until('held', async () => (await beads('poses'))[1]!.includes('held'))
    await j.click('copy-key')
    await standAt(0.9)
    await j.click('paste-key')
    await j.until('a third key', async () => (await timesOf('poses')).length === 3)
    await makeLong(4)
    await j.until('twice as late', async () => Math.abs((await timesOf('poses'))[2]! - 3.6) < 0.06)
    await (await j.find('key-poses-2')).sendKeys(Key.DELETE)
    await j.until('two keys', async () => (await timesOf('poses')).length === 2)
    await j.saved()

    // its file is the clip; removed it can be brought back
    await j.click('save-clip')
    const read = readClip(readFileSync(await j.downloaded('.clip.json'), 'utf8'))
    expect(read.problems).toEqual([])
    expect(read.value).toMatchObject({ name: 'New clip', duration: 4, loop: true })
    expect(read.value!.poses.map((k) => k.ease)).toEqual(['soft', 'hold'])
    await j.click('remove-own-clip-New clip')
    await j.until('gone', async () => (await j.findAll('timeline')).length === 0)
    await j.click('bring-back-clip')
    await j.click('own-clip-New clip')
    await j.until('two keys again', async () => (await timesOf('poses')).length === 2)
  })

  it('is made of a clip of the kit, and nothing is in its way', async () => {
    await j.click('clip-wave')
    await j.click('copy-as-keys')
    await j.until('its keys', async () => (await timesOf('poses')).length > 8)
    expect(await j.text('own-clip')).toBe('Wave, mine')
    expect(await j.faults()).toEqual([])
  })
})
