import { writeFileSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';
import { openBrowser } from './system/browser';
const [, , path, name, script = '', width = '1280', height = '800'] = process.argv;
const { driver, close } = (await openBrowser({ width: Number(width), height: Number(height) } as never).then((b: any) => (b.driver ? b : { driver: b, close: () => b.quit() }))) as any;
try {
  await driver.get(`http://localhost:4600${path}`);
  await sleep(1500);
  if (script !== '') { await driver.executeAsyncScript(`const done = arguments[0]; (async () => { ${script} })().then(() => done(), (e) => { console.error(e); done(String(e)); });`); await sleep(1500); }
  writeFileSync(`/tmp/shots/${name}.png`, await driver.takeScreenshot(), 'base64');
  const logs = await driver.manage().logs().get('browser').catch(() => []);
  for (const each of logs) console.log(each.level?.name, each.message);
} finally { await close(); }
