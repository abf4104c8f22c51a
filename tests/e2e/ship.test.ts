import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { By, Key } from 'selenium-webdriver'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { checkFile } from '@idle-tinker/core'
import { glbFaults } from '../../packages/core/src/testing/glbFaults.ts'
import { ShippedFile } from '../../packages/core/src/ship/ShippedFile.ts'
import { Journey } from './browser.ts'
import { motionFile } from './motionFile.ts'

let j: Journey

beforeAll(async () => void (j = await Journey.start()))
afterAll(() => j.stop())
beforeEach(async () => {
  await j.begin('/ship')
  await j.until('the figure', async () => (await j.find('ship-figure')).isEnabled())
})

/** Ships what is chosen, and gives the bytes of the file that comes. */
async function ship(ending: string): Promise<Uint8Array> {
  const before = readdirSync(j.downloads)
  await j.click('ship-figure')
  return new Uint8Array(readFileSync(await j.downloaded(ending, before)))
}
const namesOf = (bytes: Uint8Array) => {
  const file = new ShippedFile(bytes)
  return file.jointsOf(0).map((n) => file.nodes[n]!.name!)
}

describe('Ship', () => {
  it('ships a figure in four formats, of which the VRM opens again as the figure', async () => {
    for (const format of ['vrm', 'obj', 'dae']) await j.click(`format-${format}`)
    const some = unzipSync(await ship('.zip'))
    // nobody has said who made it
    expect(Object.keys(some).filter((n) => n.endsWith('.vrm'))).toEqual([])
    expect(await j.text('checks')).toContain('who made it')
    await (await j.find('license-authors')).sendKeys('Ada Lantern', Key.TAB)
    const files = unzipSync(await ship('.zip'))
    const endings = new Set(Object.keys(files).map((n) => n.slice(n.lastIndexOf('.'))))
    expect([...endings].sort()).toEqual(['.dae', '.glb', '.mtl', '.obj', '.png', '.vrm'])
    for (const [name, bytes] of Object.entries(files)) {
      if (/\.(?:mtl|png)$/.test(name)) continue
      const { problems } = await checkFile(bytes, name, null, (uri) => files[uri])
      expect([name, problems.filter((p) => p.severity === 'error')]).toEqual([name, []])
    }
    const vrm = Object.keys(files).find((n) => n.endsWith('.vrm'))!
    expect(await glbFaults(files[vrm]!)).toEqual([])
    const path = join(j.downloads, vrm)
    writeFileSync(path, files[vrm]!)
    await j.go('/bench')
    await j.click('figure-name')
    const figures = () => j.driver.findElements(By.css('[data-test="figure-list"] button.pick'))
    const known = (await figures()).length
    await (await j.find('open-file')).sendKeys(path)
    await j.until('the figure', async () => (await figures()).length === known + 1)
    expect(await j.errors()).toEqual([])
  })

  it('learns a target from a file of a game, to which figures then ship by its names', async () => {
    const path = motionFile('harbour', 'walk')
    await (await j.find('learn-file')).sendKeys(path)
    await j.until('learned', async () => (await j.text('ship-message')).includes('is a target now'))
    expect(await j.text('checks')).toContain('bones were found')
    const names = namesOf(await ship('.glb'))
    expect(names).toEqual(expect.arrayContaining(['Hand.L', 'UpperLeg.R', 'hips']))
    expect(names).not.toContain('leftHand')
    expect(names).toContain('Toes.L')
    // what a person says of its bones is gone by; too little is told, and can be said again
    await j.click('ask-bones')
    await j.clickOn(By.css('[data-test="follows-leftHand"] .p-select-clear-icon'))
    await j.click('keep-match')
    await j.until('told', async () => (await j.text('checks')).includes('no joint for “leftHand”'))
    await j.click('ask-bones')
    await j.clickOn(By.css('[data-test="ours-leftHand"]'))
    await j.clickOn(By.css('[data-test="theirs-Hand.L"]'))
    await j.clickOn(By.css('[data-test="follows-leftToes"] .p-select-clear-icon'))
    expect(await j.faults()).toEqual([])
    await j.click('keep-match')
    await j.until('learned', async () => (await j.text('ship-message')).includes('goes by what you said'))
    const said = namesOf(await ship('.glb'))
    expect(said).toEqual(expect.arrayContaining(['Hand.L', 'Toes.R', 'leftToes']))
    expect(said).not.toContain('Toes.L')
    // what is none is told, and changes nothing
    const odd = join(j.downloads, 'odd.bvh')
    writeFileSync(odd, 'no bones here')
    await (await j.find('learn-file')).sendKeys(odd)
    await j.until('told', async () => (await j.text('ship-message')).includes('Nothing could be learned'))
    expect(await j.faults()).toEqual([])
  })

  it('calls bones and turns them as its target says, which can be changed', async () => {
    await j.click('edit-target')
    const pick = async (test: string, words: string) => {
      await j.click(test)
      await j.press(`//li[@role="option"][normalize-space()="${words}"]`)
    }
    await pick('target-bones', 'Numbered')
    await pick('target-axes', 'Along their bones')
    await (await j.find('target-root')).sendKeys('Root', Key.TAB)
    await j.saved()
    const bytes = await ship('.glb')
    expect(namesOf(bytes).slice(0, 2)).toEqual(['bone001', 'bone002'])
    expect(await glbFaults(bytes)).toEqual([])
    const file = new ShippedFile(bytes)
    expect(file.nodes.some((n) => n.name === 'Root')).toBe(true)
    // an arm that hangs is turned at rest
    expect(file.nodes.filter((n) => n.rotation).length).toBeGreaterThan(10)
    for (let i = 0; i < 3; i++) await j.click('undo')
    await j.saved()
    expect(await j.text('target-bones')).toContain('VRM')
  })

  it('ships a crowd in four formats as one zip', async () => {
    await j.go('/crowd')
    const field = await j.findAt(By.id('count'))
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), '8', Key.TAB)
    await j.saved()
    await j.click('make')
    await j.until(
      'made',
      async () => (await j.driver.findElements(By.css('[data-test="contact-sheet"] img'))).length === 8,
    )
    await j.clickOn(By.css('a.ship'))
    for (const format of ['gltf', 'obj', 'bvh']) await j.click(`format-${format}`)
    const before = readdirSync(j.downloads)
    await j.click('ship-crowd')
    await j.click('download-zip')
    const path = await j.downloaded('.zip', before)
    const zip = unzipSync(new Uint8Array(readFileSync(path)))
    const count = (ending: string) => Object.keys(zip).filter((n) => n.endsWith(ending)).length
    expect(['.glb', '.gltf', '.bin', '.obj'].map(count)).toEqual([8, 8, 8, 8])
    expect(count('.bvh')).toBeGreaterThanOrEqual(16)
    for (const name of Object.keys(zip).filter((n) => /\.(?:glb|gltf|obj|bvh)$/.test(n))) {
      const { problems } = await checkFile(zip[name]!, name, null, (uri) => zip[uri])
      expect([name, problems.filter((p) => p.severity === 'error')]).toEqual([name, []])
    }
    // from its zip it is a crowd again
    await j.walk('/crowd')
    await j.click('mix-name')
    await (await j.find('open-crowd')).sendKeys(path)
    await j.until('the crowd', async () => (await j.text('mix-name')).includes('Quay at noon 2'))
    expect(await (await j.findAt(By.id('count'))).getAttribute('value')).toBe('8')
    expect(await j.errors()).toEqual([])
  })

  it('ships several things for two targets, keeps them, and ships them again as they are now', async () => {
    const choose = async (field: string, ...names: string[]) => {
      await j.click(field)
      for (const name of names) await j.press(`//li[contains(., "${name}")]`)
      await j.driver.actions().sendKeys(Key.ESCAPE).perform()
    }
    await j.press('//*[@data-test="what"]//*[contains(text(), "Several")]')
    await choose('several', 'Brother Eel')
    await choose('several-targets', 'far')
    await j.click('format-bvh')
    const before = readdirSync(j.downloads)
    await j.click('ship-several')
    await j.click('download-zip')
    const files = unzipSync(new Uint8Array(readFileSync(await j.downloaded('.zip', before))))
    const glbs = Object.keys(files).filter((n) => n.endsWith('.glb'))
    expect(glbs.sort()).toEqual(['far', 'near'].flatMap((t) => [`${t}/brother-eel.glb`, `${t}/maren-quill.glb`]))
    for (const name of glbs) expect(await glbFaults(files[name]!)).toEqual([])
    expect(await j.text('ship-message')).toContain('4 figures')
    // each by itself, with what was found
    await j.click('shipment-name')
    expect(await j.text('shipment-details')).toMatch(/Brother Eel, Lantern Tide, far: \d+ files/)
    expect(await j.driver.findElements(By.css('[data-test="shipment-changed"]'))).toEqual([])
    // a figure is changed: it is said, and what ships again is as it is now
    await j.walk('/bench')
    await j.click('rename')
    await (await j.find('rename-field')).sendKeys(Key.chord(Key.CONTROL, 'a'), 'Maren Later', Key.ENTER)
    await j.saved()
    await j.walk('/ship')
    await j.until('what changed', async () => (await j.text('shipment-changed')).includes('Maren Quill'))
    await j.click('shipment-again')
    await j.until('two', async () => (await j.driver.findElements(By.css('[data-test="shipment-done"]'))).length === 2)
    const again = await j.driver.findElements(By.css('[data-test="shipment-file"]'))
    const earlier = readdirSync(j.downloads)
    await again[0]!.click()
    const now = unzipSync(new Uint8Array(readFileSync(await j.downloaded('.zip', earlier))))
    expect(Object.keys(now)).toContain('near/maren-later.glb')
    // and forgotten
    await j.click('shipment-forget')
    await j.until('one', async () => (await j.driver.findElements(By.css('[data-test="shipment-done"]'))).length === 1)
    expect(await j.errors()).toEqual([])
  })

  it('keeps a figure that was shipped here, and has its file again after a reload', async () => {
    const bytes = await ship('.glb')
    await j.find('shipment-done')
    await j.go('/ship')
    const before = readdirSync(j.downloads)
    await j.click('shipment-file')
    const kept = new Uint8Array(readFileSync(await j.downloaded('.glb', before)))
    expect(Buffer.compare(kept, bytes)).toBe(0)
    // where the server is away the file comes all the same, and that it is not kept is said
    await j.driver.executeScript(
      'const real = window.fetch; window.fetch = (path, ...more) => path === "/api/shipments/kept" ? Promise.reject(new TypeError("cut")) : real(path, ...more)',
    )
    await ship('.glb')
    await j.until('that', async () => (await j.text('ship-message')).includes('could not be put among the shipments'))
    expect(await j.driver.findElements(By.css('[data-test="shipment-done"]'))).toHaveLength(1)
  })

  it('keeps a crowd back that is no size for figures, until one insists', async () => {
    await j.go('/crowd')
    await (await j.findAt(By.id('count'))).sendKeys(Key.chord(Key.CONTROL, 'a'), '2', Key.TAB)
    await j.saved()
    await j.walk('/ship')
    await j.press('//*[@data-test="what"]//*[contains(text(), "Quay at noon")]')
    await j.click('edit-target')
    const scale = await j.findAt(By.css('[data-test="target-scale"] input, input[data-test="target-scale"]'))
    await scale.sendKeys(Key.chord(Key.CONTROL, 'a'), '50', Key.TAB)
    await j.saved()
    await j.click('edit-target')
    await j.click('ship-crowd')
    await j.until('the fault', async () => (await j.text('checks')).includes('which no figure is'))
    await j.find('shipment-failed')
    // one that is kept back has no file
    expect(await j.driver.findElements(By.css('[data-test="download-zip"]'))).toEqual([])
    const before = readdirSync(j.downloads)
    await j.click('insist')
    await j.click('download-zip')
    const zip = unzipSync(new Uint8Array(readFileSync(await j.downloaded('.zip', before))))
    expect(Object.keys(zip).filter((n) => n.endsWith('.glb'))).toHaveLength(2)
  })
})
