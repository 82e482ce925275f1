import { setTimeout as sleep } from 'node:timers/promises';
import { writeFileSync } from 'node:fs';
import { By } from 'selenium-webdriver';
import { openBrowser } from './system/browser';

const [path = '/', out = '/tmp/shot.png', width = '1280', height = '800', ...press] = process.argv.slice(2);
const { driver, close } = await openBrowser({ width: Number(width), height: Number(height), dark: false } as never);
try {
  await driver.get(`http://localhost:4600${path}`);
  await sleep(1500);
  for (const xpath of press) {
    await driver.findElement(By.xpath(xpath)).click();
    await sleep(900);
  }
  writeFileSync(out, await driver.takeScreenshot(), 'base64');
} finally {
  await close();
}
