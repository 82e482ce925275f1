import { execFileSync } from 'node:child_process';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { visibleText } from '#core/read/html';
import { AddressRules } from '#server/fetch/addresses';
import { describeFetchProblem } from '#server/fetch/problem';
import type { RenderRequest } from '#server/fetch/rendered/messages';
import { Renderer } from '#server/fetch/rendered/renderer';
import { endAll, memoryOf, processesBelow } from '#server/processes';
import { documentOf } from '../support/document';
import { countUncaught } from '../support/raw';
import { openThreads } from '../support/reading';

// Pages that turn on the browser, on its driver, or on whoever writes them down.

const PRICE = '<p>Price £24.00</p>';
const HOSTILE: Record<string, string> = {
  'that redefines how lists are joined':
    `<script>Array.prototype.join = () => { throw 1 }; Array.prototype.push = () => '"'; Array.prototype.map = ` +
    `null</script>${PRICE}`,
  'that redefines JSON and text':
    `<script>JSON.stringify = () => 'x'.repeat(1e6); String.prototype.replace = () => ({}); ` +
    `Object.prototype.toJSON = () => 1; Symbol.iterator; Array.prototype[Symbol.iterator] = null</script>${PRICE}`,
  'that redefines the document':
    `<script>Object.defineProperty(document, 'documentElement', { get() { throw 1 } }); ` +
    'Element.prototype.getAttribute = () => { throw 1 }; window.getComputedStyle = () => null; ' +
    `Node.prototype.nodeType</script>${PRICE}`,
  'whose form hides what a form has':
    '<form><input name="attributes"><input name="childNodes"><input name="localName"><input ' +
    `name="getAttribute"><input name="nodeType">${PRICE}</form>`,
  'whose images are called like the document’s parts':
    '<img name="documentElement"><img name="body"><img ' + `name="querySelector">${PRICE}`,
  'that nests two thousand deep':
    `${PRICE}<div id="a"></div><script>let at = document.getElementById('a'); for (let n = 0; n < 2000; n += 1) { ` +
    `const next = document.createElement('div'); at.append(next); at = next }</script>`,
  'that asks and asks': `${PRICE}<script>onbeforeunload = () => 'stay'; setInterval(() => alert(1), 1)</script>`,
  'that opens others': `${PRICE}<script>for (let n = 0; n < 20; n += 1) open('/x' + n)</script>`,
  'that downloads':
    `${PRICE}<a id="d" href="data:application/octet-stream,x" ` +
    `download="x">x</a><script>document.getElementById('d').click()</script>`,
};
/** Those may end with a reason. */
const DEADLY: Record<string, string> = {
  'that leads to a file':
    '<script>location.href = "file:///etc/passwd"</script><meta http-equiv="refresh" ' +
    'content="0;url=file:///etc/passwd"><p>Root of all</p>',
  'of typed arrays':
    '<script>const held = []; for (let n = 0; n < 1000; n += 1) held.push(new ' +
    'Uint8Array(1e7).fill(n))</script><p>full</p>',
  'of typed arrays in workers':
    `<script>const source = URL.createObjectURL(new Blob(['const held = []; for (;;) held.push(new ` +
    `Uint8Array(1e7).fill(7))'])); for (let n = 0; n < 8; n += 1) new Worker(source)</script><p>full</p>`,
  'that nests without end':
    `<p>deep</p><div id="a"></div><script>let at = document.getElementById('a'); for (let n = 0; n < 20000; n += ` +
    `1) { const next = document.createElement('div'); at.append(next); at = next }</script>`,
  'of a text that doubles': '<script>let text = "x"; for (;;) text += text</script>',
  'that never gives back': '<script>for (;;);</script>',
};

let server: Server;
let base = '';
let renderer: Renderer;
const reading = openThreads();
beforeAll(async () => {
  const pages = Object.values({ ...HOSTILE, ...DEADLY });
  server = createServer((request, response) => {
    const body =
      pages[Number(/^\/p\/(\d+)$/.exec(request.url ?? '')?.[1])] ?? (request.url === '/good' ? PRICE : undefined);
    response
      .writeHead(body === undefined ? 404 : 200, { 'content-type': 'text/html; charset=utf-8' })
      .end(`<!doctype html><body>${body ?? 'nothing'}`);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  base = `http://shop.localhost:${port}`;
  const limits = {
    executable: '/usr/bin/chromium',
    pagesAtOnce: 2,
    timeoutMs: 12_000,
    mostBytes: 2_000_000,
    userAgent: 'test',
  };
  renderer = new Renderer(new AddressRules([`shop.localhost:${port}`]), limits, () => null, reading);
});
afterAll(async () => {
  await renderer.close();
  await reading.close();
  server.closeAllConnections();
  server.close();
});

const render = (path: string, steps: RenderRequest['steps'] = []) => renderer.render({ address: base + path, steps });

async function readsGood(): Promise<void> {
  const good = await render('/good');
  expect(good.ok && visibleText(documentOf(good.value.kind === 'page' ? good.value.body() : ''))).toContain(
    'Price £24.00',
  );
}

/** How long a page takes is not what is tried here. */
const ON_A_BUSY_MACHINE = { retry: 2 };

describe('a page', () => {
  it.each(Object.keys(HOSTILE).map((name, at) => [name, at] as const))(
    '%s is written down all the same',
    ON_A_BUSY_MACHINE,
    async (_, at) => {
      const uncaught = await countUncaught(async () => {
        const rendered = await render(`/p/${at}`);
        if (!rendered.ok) throw new Error(describeFetchProblem(rendered.error));
        expect(visibleText(documentOf(rendered.value.body()))).toContain('Price £24.00');
      });
      expect(uncaught).toEqual([]);
    },
  );

  it.each(Object.keys(DEADLY).map((name, at) => [name, at + Object.keys(HOSTILE).length] as const))(
    '%s costs itself alone',
    async (_, at) => {
      let most = 0;
      const watch = setInterval(() => (most = Math.max(most, memoryOf(processesBelow(process.pid)))), 500);
      const uncaught = await countUncaught(async () => {
        const [deadly] = await Promise.all([render(`/p/${at}`), readsGood()]);
        if (deadly.ok) expect(deadly.value.body()).not.toContain('root:');
        else expect(describeFetchProblem(deadly.error).length).toBeGreaterThan(10);
        await readsGood();
      });
      clearInterval(watch);
      expect(uncaught).toEqual([]);
      expect(most).toBeLessThan(3_500_000_000);
    },
  );

  it('whose browser and driver are killed fails, and the next is rendered', async () => {
    const slow = render(`/p/${Object.keys({ ...HOSTILE, ...DEADLY }).indexOf('that never gives back')}`);
    await new Promise((resolve) => setTimeout(resolve, 3_000));
    const own = processesBelow(process.pid).filter((pid) =>
      execFileSync('cat', [`/proc/${pid}/cmdline`]).includes('rendered/process'),
    );
    endAll(own.flatMap((pid) => [...processesBelow(pid), pid]));
    expect((await slow).ok).toBe(false);
    await readsGood();
  });
});

describe('a step', () => {
  it.each([
    'file:///etc/passwd',
    'javascript:alert(1)',
    'data:text/html,<p>x',
    'chrome://version',
    'ftp://shop.localhost/',
    'view-source:http://shop.localhost/',
    'blob:x',
    'about:blank',
  ])('goes nowhere but to the web: not to %s', async (address) => {
    const rendered = await render('/good', [{ act: 'go to', address }]);
    expect(rendered).toMatchObject({ ok: false, error: { reason: 'step', number: 1 } });
    const tried = await renderer.trySteps({ address: `${base}/good`, steps: [{ act: 'go to', address }] });
    expect(tried.ok && tried.value.at(-1)?.problem).toContain('only addresses that begin with http:// or https://');
  });

  it('goes on to another page of the site by its path', async () => {
    expect((await render('/p/0', [{ act: 'go to', address: '/good' }])).ok).toBe(true);
  });
});
