import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { zipSync } from 'fflate'
import { By } from 'selenium-webdriver'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { Journey } from './browser.ts'

let j: Journey

beforeAll(async () => void (j = await Journey.start()))
afterAll(() => j.stop())
beforeEach(() => j.begin('/kits'))

/** A kit of a person's own as a zip: the creatures under another name. */
function reef(kitVersion: string): string {
  const folder = join(process.cwd(), 'kits/tide-creatures')
  const files: Record<string, Uint8Array> = {}
  for (const path of readdirSync(folder, { recursive: true, encoding: 'utf8' }))
    if (/\.(json|glb)$/.test(path)) files[path] = new Uint8Array(readFileSync(join(folder, path)))
  const manifest = JSON.parse(new TextDecoder().decode(files['kit.json'])) as object
  files['kit.json'] = new TextEncoder().encode(
    JSON.stringify({ ...manifest, id: 'reef-creatures', name: 'Reef creatures', kitVersion }),
  )
  const path = join(j.downloads, `reef-${kitVersion}.zip`)
  writeFileSync(path, zipSync(files))
  return path
}

const add = async (path: string) => (await j.find('add-kit')).sendKeys(path)

describe('Kits', () => {
  it('shows what is in each kit, with pictures', async () => {
    await j.click('kit-tide-creatures')
    await j.until('pictures', async () => (await j.driver.findElements(By.css('.parts img'))).length >= 10)
    expect(await j.errors()).toEqual([])
  })

  it('takes a kit of one’s own: its parts are shown, and figures are made from it', async () => {
    await add(reef('1.0.0'))
    await j.until('it', async () => (await j.text('kit-reef-creatures')).startsWith('Reef creatures'))
    await j.until('pictures', async () => (await j.driver.findElements(By.css('.parts img'))).length >= 10)
    await j.click('figure-name')
    const buttons = await j.findAll('new-ottern')
    expect(buttons).toHaveLength(2)
    await buttons[1]!.click()
    await j.until('an ottern', async () => (await j.text('figure-name')).startsWith('New ottern'))
    await j.go('/bench')
    expect(await j.gauge('triangles')).toBeGreaterThan(1000)
    expect(await j.errors()).toEqual([])
  })

  it('asks before a kit takes the place of another, and before one is removed', async () => {
    await add(reef('1.0.0'))
    await j.find('kit-reef-creatures')
    await add(reef('2.0.0'))
    await j.until('the question', async () => (await j.text('kit-message')).includes('Nothing was replaced'))
    expect(await j.text('kit-reef-creatures')).toContain('1.0.0')
    await j.click('replace-kit')
    await j.until('the newer one', async () => (await j.text('kit-reef-creatures')).includes('2.0.0'))
    await j.click('kit-reef-creatures')
    await j.click('remove-kit')
    await j.click('remove-kit-sure')
    await j.until('it gone', async () => (await j.findAll('kit-reef-creatures')).length === 0)
    await j.walk('/bench')
    expect(await j.gauge('triangles')).toBeGreaterThan(1000)
    // the refusal is all that went wrong
    expect((await j.errors()).filter((e) => !e.includes('409'))).toEqual([])
  })

  it('leaves things as they are when one thinks better of it', async () => {
    await j.click('kit-tide-creatures')
    await j.click('remove-kit')
    await j.press('//button[contains(., "Keep it")]')
    await j.until('no question', async () => (await j.driver.findElements(By.css('[role="alertdialog"]'))).length === 0)
    await j.go('/kits')
    await j.find('kit-tide-creatures')
  })

  it('says in words what is wrong with a file that is no kit', async () => {
    await add(join(process.cwd(), 'package.json'))
    await j.until('the reason', async () => (await j.text('kit-message')).includes('cannot be opened as a zip'))
  })
})
