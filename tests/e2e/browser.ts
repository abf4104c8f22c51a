import { cpSync, mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import axe from 'axe-core'
import { createConnection } from 'mysql2/promise'
import { By, error, until, type WebDriver, type WebElement } from 'selenium-webdriver'
import type chrome from 'selenium-webdriver/chrome.js'
import { inject } from 'vitest'
import { openChromium } from './chromium.ts'
import type { Kept } from './setup.ts'

/** How long anything is waited for, ms: the slowest is a crowd of 60 on a busy machine of two cores. */
const PATIENCE = 60_000
/** What an element that is still coming, sliding in or being drawn anew answers. */
const NOT_YET = [
  error.NoSuchElementError,
  error.StaleElementReferenceError,
  error.ElementClickInterceptedError,
  error.ElementNotInteractableError,
]

/** Whether nothing that an element is in is fully transparent. */
const IS_OPAQUE = `
  for (let e = arguments[0]; e; e = e.parentElement) if (Number(getComputedStyle(e).opacity) === 0) return false
  return true`
/** Whether nothing of the page moves but what goes round for ever. */
const IS_STILL = `
  return document.getAnimations().every((a) => a.playState !== 'running' || a.effect.getComputedTiming().endTime === Infinity)`

/** A real browser at 1280x800 with what the journeys need. */
export class Journey {
  readonly driver: WebDriver
  readonly downloads: string
  readonly address: string
  private readonly profile: string

  private constructor(driver: WebDriver, profile: string, downloads: string, address: string) {
    this.driver = driver
    this.address = address
    this.profile = profile
    this.downloads = downloads
  }

  /** @param address of a workshop of the test's own; that of all journeys if absent */
  static async start(address = inject('address')): Promise<Journey> {
    const profile = mkdtempSync(join(tmpdir(), 'chromium-'))
    const downloads = mkdtempSync(join(tmpdir(), 'downloads-'))
    // what the workshop's pages are made of has been fetched and compiled
    cpSync(inject('profile'), profile, { recursive: true })
    return new Journey(await openChromium(profile, downloads), profile, downloads, address)
  }

  async stop(): Promise<void> {
    await this.driver.quit()
    rmSync(this.profile, { recursive: true, force: true })
    rmSync(this.downloads, { recursive: true, force: true })
  }

  /** Opens a station as at a first visit: a workshop as it was sown, one window of the usual size, nothing kept in the browser. */
  async begin(route: string): Promise<void> {
    const [first, ...others] = await this.driver.getAllWindowHandles()
    for (const other of others) {
      await this.driver.switchTo().window(other)
      await this.driver.close()
    }
    await this.driver.switchTo().window(first!)
    await this.resize(1280, 800)
    // a page of the same origin that runs nothing; what was on screen saves no more once it is gone
    await this.driver.get(`${this.address}/mark.svg`)
    // its last save may still be on its way
    await this.driver.sleep(200)
    await sowAgain(this.address)
    // eyes that blink would make pictures differ that are compared
    await this.driver.executeScript(
      'localStorage.clear(); localStorage.setItem("tinker.blinks", "false"); localStorage.setItem("tinker.turns", "false"); indexedDB.deleteDatabase("tinker-kit-drafts")',
    )
    await this.driver.manage().logs().get('browser')
    for (const file of readdirSync(this.downloads)) rmSync(join(this.downloads, file), { recursive: true })
    await this.go(route)
  }

  /** Loads a station; it is there when its name is, and the figure on the Bench with its costs. */
  async go(route: string): Promise<void> {
    await this.driver.get(`${this.address}${route}`)
    await this.until('the workshop', async () => {
      const names = (
        await Promise.all(['figure-name', 'mix-name', 'picks-name'].map((name) => this.findAll(name)))
      ).flat()
      return names.length === 1 && (await names[0]!.getText()) !== '…'
    })
    if (route === '/bench' || route === '/motion') await this.find('gauge-triangles')
  }

  /** Goes to another station by the links of the page, without loading it anew. */
  async walk(route: string): Promise<void> {
    await this.clickOn(By.css(`nav a[href="${route}"]`))
    await this.until(route, async () => new URL(await this.driver.getCurrentUrl()).pathname === route)
  }

  /** Gives the page a size in CSS pixels. */
  async resize(width: number, height: number): Promise<void> {
    const inner = () => this.driver.executeScript<[number, number]>('return [innerWidth, innerHeight]')
    const [w, h] = await inner()
    if (w === width && h === height) return
    const outer = await this.driver.manage().window().getRect()
    await this.driver
      .manage()
      .window()
      .setRect({ width: outer.width + width - w, height: outer.height + height - h })
    await this.until(`${width} by ${height}`, async () => (await inner()).join() === `${width},${height}`)
  }

  /** All elements of a test name that are there now. */
  findAll(test: string): Promise<WebElement[]> {
    return this.driver.findElements(By.css(`[data-test="${test}"]`))
  }

  find(test: string): Promise<WebElement> {
    return this.findAt(By.css(`[data-test="${test}"]`))
  }

  /** An element, as soon as it is there. */
  findAt(place: By): Promise<WebElement> {
    return this.waitFor(() => this.driver.wait(until.elementLocated(place), PATIENCE, `no ${String(place)}`))
  }

  click(test: string): Promise<void> {
    return this.clickOn(By.css(`[data-test="${test}"]`))
  }

  press(xpath: string): Promise<void> {
    return this.clickOn(By.xpath(xpath))
  }

  /** Clicks once it is there, enabled and free: what is still sliding in is tried again. */
  async clickOn(place: By): Promise<void> {
    await this.until(`a click on ${String(place)}`, async () => {
      const element = await this.driver.findElement(place)
      if (!(await element.isEnabled())) return false
      await this.driver.executeScript('arguments[0].scrollIntoView({ block: "center" })', element)
      await element.click()
      return true
    })
  }

  /** What an element says, as soon as it can be seen: the driver reads nothing of what is still fading in. */
  async text(test: string): Promise<string> {
    let said = ''
    await this.until(`${test} to be seen`, async () => {
      const element = await this.driver.findElement(By.css(`[data-test="${test}"]`))
      said = await element.getText()
      return said !== '' || this.driver.executeScript<boolean>(IS_OPAQUE, element)
    })
    return said
  }

  /** Waits for something; what is not there yet, or is being drawn anew, is looked at again. Any other fault ends the wait. */
  async until(what: string, test: () => Promise<boolean>): Promise<void> {
    const looked = async () => {
      try {
        return await test()
      } catch (fault) {
        if (fault instanceof error.WebDriverError && NOT_YET.some((kind) => fault instanceof kind)) return false
        throw fault
      }
    }
    await this.waitFor(() => this.driver.wait(looked, PATIENCE, what))
  }

  /** Who waits in vain is told what the page says meanwhile: on a machine elsewhere nobody sees it. */
  private async waitFor<T>(wait: () => PromiseLike<T>): Promise<T> {
    try {
      return await wait()
    } catch (fault) {
      if (!(fault instanceof error.TimeoutError)) throw fault
      const said = await this.driver
        .executeScript<string>(
          'return `${location.pathname}: ${document.body.innerText.replace(/\\s+/g, " ").slice(0, 1500)}`',
        )
        .catch((silent: unknown) => `nothing (${String(silent)})`)
      throw new error.TimeoutError(`${fault.message}\nThe page says ${said}`)
    }
  }

  /** Opens groups of sliders that are folded away. */
  async unfold(...groups: string[]): Promise<void> {
    for (const id of groups) {
      const fold = By.css(`[data-test="group-${id}"] .fold`)
      if ((await (await this.findAt(fold)).getAttribute('aria-expanded')) !== 'true') await this.clickOn(fold)
    }
  }

  /** The number a gauge of the budget rail shows. */
  async gauge(key: string): Promise<number> {
    return Number(
      (await this.text(`gauge-${key}`))
        .split('\n')
        .pop()!
        .split('/')[0]!
        .replace(/[^0-9]/g, ''),
    )
  }

  /** How many pictures the stage has drawn. */
  async frames(): Promise<number> {
    return Number((await (await this.find('stage')).getAttribute('data-frames')) ?? 0)
  }

  /** Waits until the stage has drawn again since a count. */
  async drawnSince(frames: number): Promise<void> {
    await this.until('a new frame', async () => (await this.frames()) > frames)
  }

  async saved(): Promise<void> {
    await this.until('saved', async () => (await this.text('save-state')) === 'Saved')
  }

  /** A command of the browser's own protocol, and what it answers. */
  devtools(command: string, parameters: object = {}): Promise<unknown> {
    // the declared answer is a text, the driver gives the command's own object
    return (this.driver as chrome.Driver).sendAndGetDevToolsCommand(command, parameters)
  }

  /** Runs a script on every page before its own; the answer takes it back. */
  async beforeEachPage(source: string): Promise<() => Promise<void>> {
    const { identifier } = (await this.devtools('Page.addScriptToEvaluateOnNewDocument', { source })) as {
      identifier: string
    }
    return async () => {
      await this.devtools('Page.removeScriptToEvaluateOnNewDocument', { identifier })
    }
  }

  /** A file with such an ending, as soon as it has been downloaded whole; not one of those known before. */
  async downloaded(ending: string, before: readonly string[] = []): Promise<string> {
    let name: string | undefined
    await this.until(`a ${ending} file`, () => {
      name = readdirSync(this.downloads).find((f) => f.endsWith(ending) && !before.includes(f))
      return Promise.resolve(name !== undefined)
    })
    return join(this.downloads, name!)
  }

  /**
   * What axe-core finds on the page as it stands once nothing fades or slides any more: rule and where, of what is
   * serious or critical.
   *
   * @param rules by which it looks; by all if none is named
   */
  async faults(...rules: string[]): Promise<string[]> {
    await this.until('all to stand still', () => this.driver.executeScript<boolean>(IS_STILL))
    await this.driver.executeScript(axe.source)
    return this.driver.executeAsyncScript<string[]>(
      `const [rules, done] = arguments
       axe.run({ resultTypes: ['violations'], ...(rules.length && { runOnly: rules }) }).then(({ violations }) =>
         done(violations
           .filter((v) => v.impact === 'serious' || v.impact === 'critical')
           .flatMap((v) => v.nodes.map((n) => v.id + ': ' + n.target.join(' ')))))`,
      rules,
    )
  }

  /** Errors the page has told of since the last time it was asked, or since it began. */
  async errors(): Promise<string[]> {
    const entries = await this.driver.manage().logs().get('browser')
    return entries.map((e) => e.message)
  }
}

/** Takes away what was added to a workshop, brings back what is gone, and puts right what was changed. */
async function sowAgain(address: string): Promise<void> {
  const ask = async <T>(path: string, method = 'GET', body?: object): Promise<T> => {
    const answer = await fetch(`${address}/api/${path}`, {
      method,
      headers: { 'content-type': 'application/json' },
      body: body && JSON.stringify(body),
    })
    if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${await answer.text()}`)
    return (answer.status === 204 ? null : await answer.json()) as T
  }
  const kits = inject('kits')
  for (const { id } of await ask<{ id: string }[]>('kits')) if (!(id in kits)) await ask(`kits/${id}`, 'DELETE')
  const there = new Map((await ask<{ id: string; hash: string }[]>('kits')).map((k) => [k.id, k.hash]))
  for (const [id, hash] of Object.entries(kits)) {
    if (there.get(id) === hash) continue
    const before = await ask<{ number: number; hash: string }[]>(`kit-versions/${id}`)
    await ask(`kit-versions/${id}/${before.find((v) => v.hash === hash)!.number}/restore`, 'POST')
  }
  for (const { id } of await ask<{ id: string }[]>('kit-versions')) await ask(`kit-versions/${id}`, 'DELETE')
  const sown: Kept = inject('sown')
  for (const kind of ['figure', 'mix', 'target', 'kept', 'motion', 'pose', 'clip', 'picks'] as const) {
    const now = await ask<{ id: string; version: number; content: object }[]>(`documents/${kind}`)
    const wanted = new Map(sown[kind].map((d) => [d.id, d.content]))
    for (const { id } of now) if (!wanted.has(id)) await ask(`documents/${kind}/${id}`, 'DELETE')
    for (const [id, content] of wanted) {
      const entry =
        now.find((d) => d.id === id) ??
        (await ask<{ version: number; content: object }>(`documents/${kind}/${id}/restore`, 'POST'))
      if (JSON.stringify(entry.content) === JSON.stringify(content)) continue
      const save = { version: entry.version, content, token: crypto.randomUUID(), after: [] }
      await ask(`documents/${kind}/${id}`, 'PUT', save)
    }
  }
  for (const { id, state } of await ask<{ id: string; state: string }[]>('shipments')) {
    if (state === 'waiting' || state === 'running') await ask(`jobs/${id}/cancel`, 'POST')
    await ask(`jobs/${id}`, 'DELETE')
  }
  // what an earlier journey saved is nobody's step
  const base = await createConnection(inject('database'))
  await base.query(
    'DELETE v FROM document_versions v JOIN documents d ON d.kind = v.kind AND d.id = v.id WHERE v.version < d.version',
  )
  await base.end()
}
