import { Builder, By, until } from 'selenium-webdriver'
import chrome from 'selenium-webdriver/chrome.js'
import { writeFileSync, mkdtempSync } from 'node:fs'
const [w,h]=(process.env.SIZE??'1280,943').split(',')
const o=new chrome.Options(); o.setChromeBinaryPath('/usr/bin/chromium')
o.addArguments('--headless=new','--no-sandbox','--disable-dev-shm-usage','--use-angle=swiftshader','--enable-unsafe-swiftshader','--ignore-gpu-blocklist','--disable-gpu','--disable-background-networking','--disable-component-update','--disable-sync','--no-first-run','--disable-quic',`--window-size=${w},${h}`,'--user-data-dir='+mkdtempSync('/tmp/lk-'))
o.setUserPreferences({'download.default_directory':'/tmp/lkdl','download.prompt_for_download':false})
o.setLoggingPrefs({browser:'ALL'})
const d=await new Builder().forBrowser('chrome').setChromeOptions(o).setChromeService(new chrome.ServiceBuilder('/usr/bin/chromedriver')).build()
const wait=(ms)=>d.sleep(ms)
const css=(t)=>By.css(`[data-test="${t}"]`)
const find=async(t)=>d.wait(until.elementLocated(css(t)),30000,t)
const click=async(t)=>{const e=await find(t);await d.executeScript('arguments[0].scrollIntoView({block:"nearest"})',e);await wait(100);await e.click()}
const shot=async(n)=>{writeFileSync(`/tmp/${n}.png`,await d.takeScreenshot(),'base64')}
const dragBy=async(t,x,y,steps=6,ms=60)=>{const e=await find(t);const a=d.actions({async:true}).move({origin:e}).press();for(let i=0;i<steps;i++)a.move({origin:'pointer',x:Math.round(x/steps),y:Math.round(y/steps),duration:ms});await a.release().perform()}
try{
 await d.get('http://127.0.0.1:4310'+(process.env.PAGE??'/motion'))
 await find('figure-name'); await wait(3000)
 if(process.env.THEME==='lamp'){await d.executeScript('localStorage.setItem("tinker.lamp","true")')}
 const {default:steps}=await import(process.env.STEPS)
 await steps({d,click,wait,shot,dragBy,By,find})
}catch(e){console.error('FAIL',e.message);await shot('fail')}
for(const e of await d.manage().logs().get('browser')) if(e.level.name!=='DEBUG'&&e.level.name!=='INFO') console.log(e.level.name,e.message.slice(0,400))
await d.quit()
