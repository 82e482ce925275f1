import { openBrowser } from '/work/main/scripts/system/browser';
import { writeFileSync } from 'node:fs';
import { By } from 'selenium-webdriver';
const [,, path, out, script = '', h = '800'] = process.argv;
const b = await openBrowser({ width: 1280, height: Number(h) } as never);
const { driver } = b;
try { await driver.get('http://localhost:4600' + path); await new Promise(r=>setTimeout(r,2500)); if (script) { await driver.executeScript(script); await new Promise(r=>setTimeout(r,1500)); } writeFileSync(out, await driver.takeScreenshot(), 'base64'); console.log(await driver.getCurrentUrl()); } finally { await b.close(); }
process.exit(0);
