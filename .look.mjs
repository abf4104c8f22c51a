import { Builder, By } from 'selenium-webdriver'
import chrome from 'selenium-webdriver/chrome.js'
import { writeFileSync } from 'node:fs'
const o=new chrome.Options();o.setChromeBinaryPath('/usr/bin/chromium')
o.addArguments('--headless=new','--no-sandbox','--disable-dev-shm-usage','--use-angle=swiftshader','--enable-unsafe-swiftshader','--ignore-gpu-blocklist','--disable-gpu','--window-size=1280,943')
const d=await new Builder().forBrowser('chrome').setChromeOptions(o).setChromeService(new chrome.ServiceBuilder('/usr/bin/chromedriver')).build()
const $=async(t)=>{await d.wait(async()=>(await d.findElements(By.css(`[data-test="${t}"]`))).length>0,60000,t);return d.findElement(By.css(`[data-test="${t}"]`))}
const shot=async(n)=>writeFileSync(n,await d.takeScreenshot(),'base64')
try{
 await d.get('http://127.0.0.1:4310/mark.svg');await d.executeScript('localStorage.setItem("tinker.blinks","false");localStorage.setItem("tinker.turns","false")')
 await d.get('http://127.0.0.1:4310/motion');await $('gauge-triangles');await $('clip-walk')
 await (await $('points')).click().catch(async()=>{await d.executeScript('document.querySelector("#points").click()')})
 await $('point-headTop');await d.sleep(1500);
 await d.actions().move({origin:await $('point-lookAt')}).perform();await d.sleep(800)
 await d.executeScript('document.querySelector("[data-test=point-list]").scrollIntoView({block:"end"})');await d.sleep(300)
 await shot('/tmp/look1.png')
}finally{await d.quit()}
