import { Builder, type WebDriver } from 'selenium-webdriver'
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
  // pages of the browser's own bar, which nobody sees
  '--disable-features=WebUIOmniboxPopup,WebUIOmniboxAimPopup',
  '--window-size=1280,943',
  '--force-device-scale-factor=0.5',
  // a page lives for seconds here: what compilers gain by more work, and cleaning up in threads, is never earned back
  '--js-flags=--no-turbofan,--single-threaded-gc,--no-concurrent-recompilation,--invocation-count-for-maglev=1200',
]

/** The browser of the journeys, on a profile of its own. */
export function openChromium(profile: string, downloads: string): Promise<WebDriver> {
  const options = new chrome.Options()
  options.setChromeBinaryPath('/usr/bin/chromium')
  options.addArguments(...FLAGS, `--user-data-dir=${profile}`)
  options.setUserPreferences({ 'download.default_directory': downloads, 'download.prompt_for_download': false })
  options.setLoggingPrefs({ browser: 'SEVERE' })
  return new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(new chrome.ServiceBuilder('/usr/bin/chromedriver'))
    .build()
}
