import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Builder, By, until, type WebDriver, type WebElement } from 'selenium-webdriver'
import chrome from 'selenium-webdriver/chrome.js'

const FLAGS = [
  '--headless=new',
  '--no-sandbox',
  '--disable-dev-shm-usage',
  '--use-angle=swiftshader',
  '--enable-unsafe-swiftshader',
  '--ignore-gpu-blocklist',
  '--disable-gpu',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--no-first-run',
  '--disable-quic',
  '--window-size=1280,943',
]
const PATIENCE = 100_000

/** A real browser at 1280x800 with what the journeys need. */
export class Journey {
  readonly driver: WebDriver
  readonly downloads: string
  private readonly profile: string

  private constructor(driver: WebDriver, profile: string, downloads: string) {
    this.driver = driver
    this.profile = profile
    this.downloads = downloads
  }

  static async start(): Promise<Journey> {
    const profile = mkdtempSync(join(tmpdir(), 'chromium-'))
    const downloads = mkdtempSync(join(tmpdir(), 'downloads-'))
    const options = new chrome.Options()
    options.setChromeBinaryPath('/usr/bin/chromium')
    options.addArguments(...FLAGS, `--user-data-dir=${profile}`)
    options.setUserPreferences({ 'download.default_directory': downloads, 'download.prompt_for_download': false })
    options.setLoggingPrefs({ browser: 'SEVERE' })
    const driver = await new Builder()
      .forBrowser('chrome')
      .setChromeOptions(options)
      .setChromeService(new chrome.ServiceBuilder('/usr/bin/chromedriver'))
      .build()
    return new Journey(driver, profile, downloads)
  }

  async stop(): Promise<void> {
    await this.driver.quit()
    rmSync(this.profile, { recursive: true, force: true })
    rmSync(this.downloads, { recursive: true, force: true })
  }

  find(test: string): Promise<WebElement> {
    return this.findAt(By.css(`[data-test="${test}"]`))
  }

  /** An element, as soon as it is there. */
  findAt(place: By): Promise<WebElement> {
    return this.driver.wait(until.elementLocated(place), PATIENCE, `no ${String(place)}`)
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

  async text(test: string): Promise<string> {
    return (await this.find(test)).getText()
  }

  async until(what: string, test: () => Promise<boolean>): Promise<void> {
    await this.driver.wait(() => test().catch(() => false), PATIENCE, what)
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

  /** Runs a script on every page before its own; the answer takes it back. */
  async beforeEachPage(source: string): Promise<() => Promise<void>> {
    const browser = this.driver as chrome.Driver
    // the declared answer is a text, the driver gives the command's own object
    const { identifier } = (await browser.sendAndGetDevToolsCommand('Page.addScriptToEvaluateOnNewDocument', {
      source,
    })) as unknown as { identifier: string }
    return async () => {
      await browser.sendAndGetDevToolsCommand('Page.removeScriptToEvaluateOnNewDocument', { identifier })
    }
  }

  /** Errors the page has told of. */
  async errors(): Promise<string[]> {
    const entries = await this.driver.manage().logs().get('browser')
    return entries.map((e) => e.message).filter((m) => !/picture|favicon/.test(m))
  }
}
