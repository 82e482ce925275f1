import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { selectElements, visibleText } from '#core/read/html';
import { wallOn } from '#core/read/inspect/wall';
import { elementsInOrder } from '#core/read/picking';
import { AddressRules, type Resolver } from '#server/fetch/addresses';
import type { FetchedPage } from '#server/fetch/fetcher';
import { describeFetchProblem } from '#server/fetch/problem';
import type { RenderRequest } from '#server/fetch/rendered/messages';
import { endAll, processesBelow } from '#server/processes';
import { Renderer } from '#server/fetch/rendered/renderer';
import { Secrets } from '#server/secrets';
import { documentOf } from '../support/document';
import { openThreads } from '../support/reading';

const HTML = { 'content-type': 'text/html; charset=utf-8' };
const PAGES: Record<string, string> = {
  '/filled':
    `<main></main><script>fetch('/data').then((r) => r.text()).then((t) => { ` +
    `document.querySelector('main').innerHTML = '<h1>Smoker</h1><p class="price">' + t + '</p><p ` +
    `style="display:none">£1.00</p><p style="visibility:hidden">£2.00</p>' })</script>`,
  '/data': '£24.00',
  '/wall':
    '<div id="wall"><button ' +
    `onclick="document.querySelector('#wall').remove();document.querySelector('main').hidden=false">Agree</button></div><main hidden><h1>Smoker</h1></main>`,
  '/signin':
    `<form onsubmit="document.body.innerHTML = '<h1>Hello ' + this.name.value + ', ' + this.word.value.length + ` +
    `'</h1>'; return false"><label>Name <input name="name"></label><label>Password <input name="word" ` +
    'type="password"></label><button>Sign in</button></form>',
  '/echo':
    '<h1>Key</h1><label>Key <input name="key"></label><button onclick="const field = ' +
    `document.querySelector('input'); document.body.insertAdjacentHTML('beforeend', '<p>Your key is ' + ` +
    `field.value + ', shown as ' + getComputedStyle(field).webkitTextSecurity + '</p>'); ` +
    `field.setAttribute('value', field.value); history.pushState({}, '', '?key=' + ` +
    'encodeURIComponent(field.value))">Show</button>',
  '/walk': `<h1>Hall</h1><a href="/room">On</a>`,
  '/room':
    `<h1>Room</h1><label>Size <select onchange="document.querySelector('b').textContent = ` +
    'this.value"><option>small</option><option>large</option></select></label><b>none</b><div ' +
    'style="height:5000px"></div><i>end</i><p></p><script>new IntersectionObserver(([end]) => { if ' +
    `(end.isIntersecting) document.querySelector('p').textContent = 'The end came into sight' ` +
    `}).observe(document.querySelector('i'))</script>`,
  '/tabs':
    `<h1>Offers</h1><p>Offers</p><div role="tab" onclick="document.querySelector('b').textContent = 'Seen with ' + ` +
    `document.querySelector('input').value">Offers</div><label>Offers <input name="offers"></label><b></b>`,
  '/late':
    `<h1>Late</h1><script>setTimeout(() => { document.body.insertAdjacentHTML('beforeend', '<p id="here">Here it ` +
    `is</p>') }, 1500)</script>`,
  '/endless': '<h1>Busy</h1><script>for (;;) {}</script>',
  '/hungry':
    '<h1>Hungry</h1><script>const held = []; for (let at = 0; at < 400; at += 1) held.push(new ' +
    'Array(1e6).fill(at))</script>',
  '/many-images': `<h1>Smoker</h1><script>for (let n = 0; n < 900; n += 1) document.body.append(Object.assign(
    new Image(9, 9), { src: '/piece?' + n }))</script>`,
  '/many-frames': `<h1>Smoker</h1><script>for (let n = 0; n < 900; n += 1) document.body.append(Object.assign(
    document.createElement('iframe'), { src: '/piece?' + n, width: 9, height: 9 }))</script>`,
  '/inner': 'SECRET OF THE INNER NETWORK',
  '/shadow':
    `<div id="host"></div><script>document.querySelector('#host').attachShadow({ mode: 'open' }).innerHTML = ` +
    `'<p>In the shadow £7.00</p>'</script>`,
  '/framed': framedShop('/consent'),
  '/framed-elsewhere': framedShop('//consent.localhost:PORT/consent'),
  '/framed-named':
    '<form ' +
    `name="elementFromPoint"></form>${'<iframe src="about:blank" hidden></iframe>'.repeat(15)}${framedShop('/consent')}`,
  '/framed-aside':
    '<h1>Smoker</h1><p class="price">£24.00</p><iframe src="/consent" style="width:900px;height:600px"></iframe>',
  '/framed-under':
    '<h1>Smoker</h1><iframe src="/consent" style="position:fixed;inset:0;width:100%;height:100%"></iframe><main ' +
    'style="position:fixed;inset:0;background:#fff">£24.00</main>',
  '/framed-busy': framedShop('//consent.localhost:PORT/busy'),
  '/framed-many': `<h1>Smoker</h1>${'<div style="position:fixed;inset:0"><iframe src="/consent" style="width:100%;height:100%"></iframe></div>'.repeat(5)}`,
  '/framed-sign-in':
    '<h1>Trade</h1><iframe style="position:fixed;inset:0;width:100%;height:100%" ' +
    'src="//consent.localhost:PORT/signin"></iframe>',
  '/consent':
    '<h2>Before you go on</h2><p>We use cookies for this and that.</p><b></b><button ' +
    `onclick="parent.postMessage('go', '*')">Refuse all</button><button ` +
    `onclick="document.querySelector('b').textContent = 'More'">Show all</button><button ` +
    `onclick="document.querySelector('b').textContent = 'More'"></button>`,
  '/busy': `<h2>Cookies</h2><button>OK</button><script>setTimeout(() => { for (;;) {} }, 300)</script>`,
};

/** A shop whose wall stands in a frame, as those that other companies make for it do. */
function framedShop(wall: string): string {
  return `<header>Shop</header><h1>Smoker</h1><p class="price">£24.00</p><p>Refuse sacks are sold apart.</p>
    <div style="position:fixed;left:200px;top:100px;width:700px;height:500px;background:#fff"><iframe src="${wall}" style="border:0;width:100%;height:100%"></iframe></div>
    <script>addEventListener('message', () => { document.querySelector('div').remove(); document.querySelector('header').textContent = 'Shop, entered' })</script>`;
}

const reading = openThreads();
let server: Server;
let pieces = 0;
let inner: Server;
let renderer: Renderer;
let base = '';
let innerPort = 0;
const innerAsked: string[] = [];
const secrets = new Secrets('a key for tests alone');

/** A page that tries every way out it can think of, to an address of the inner network. */
const escaping =
  () => `<h1>Trying</h1><pre id="said"></pre><img src="http://127.0.0.1:${innerPort}/image"><iframe src="http://127.0.0.1:${innerPort}/frame"></iframe>
<script>
const said = document.querySelector('#said'); const say = (what) => { said.textContent += what + ';' };
(async () => {
  try { await fetch('http://127.0.0.1:${innerPort}/fetch', { mode: 'no-cors' }); say('fetch answered') } catch { say('fetch refused') }
  try { await fetch('http://inner.example:${innerPort}/name', { mode: 'no-cors' }); say('name answered') } catch { say('name refused') }
  await new Promise((done) => { const socket = new WebSocket('ws://127.0.0.1:${innerPort}/socket'); socket.onopen = () => { say('socket came'); done() }; socket.onerror = () => { say('socket refused'); done() } });
  try { const peer = new RTCPeerConnection({ iceServers: [{ urls: 'stun:127.0.0.1:${innerPort}' }] }); peer.createDataChannel('x'); await peer.setLocalDescription(await peer.createOffer());
    await new Promise((done) => setTimeout(done, 600)); say(/ (127|10|192)\\./.test(peer.localDescription.sdp.replace(/c=IN IP4 0\\.0\\.0\\.0/g, '').split('a=candidate').slice(1).join()) ? 'rtc came' : 'rtc refused') } catch { say('rtc refused') }
  say('done')
})()
</script>`;

beforeAll(async () => {
  inner = createServer((request, response) => {
    innerAsked.push(request.url ?? '');
    response.end(PAGES['/inner']);
  });
  inner.on('upgrade', (request, socket) => {
    innerAsked.push(request.url ?? '');
    socket.destroy();
  });
  await new Promise<void>((resolve) => inner.listen(0, '127.0.0.1', resolve));
  innerPort = (inner.address() as AddressInfo).port;
  server = createServer((request, response) => {
    if (request.url?.startsWith('/piece') === true) pieces += 1;
    const body = request.url === '/escape' ? escaping() : PAGES[request.url ?? ''];
    if (request.url === '/away') response.writeHead(302, { location: `http://127.0.0.1:${innerPort}/redirect` }).end();
    else
      response
        .writeHead(body === undefined ? 404 : 200, HTML)
        .end(body === undefined ? 'nothing' : `<!doctype html>${body.replaceAll('PORT', new URL(base).port)}`);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  base = `http://shop.localhost:${port}`;
  // A name that is public at the first run and inside at the second: what was checked is what is connected to.
  let looks = 0;
  const resolve: Resolver = (host) => {
    if (host === 'inner.example') return Promise.resolve([(looks += 1) === 1 ? '93.184.216.34' : '127.0.0.1']);
    return Promise.resolve(['127.0.0.1']);
  };
  const limits = {
    executable: '/usr/bin/chromium',
    pagesAtOnce: 2,
    timeoutMs: 15_000,
    mostBytes: 2_000_000,
    userAgent: 'test',
  };
  renderer = new Renderer(
    new AddressRules([`shop.localhost:${port}`, `consent.localhost:${port}`], resolve),
    limits,
    (sealed, host) => secrets.open(sealed, 'request', host),
    reading,
  );
});
afterAll(async () => {
  await renderer.close();
  await reading.close();
  for (const each of [server, inner]) {
    each.closeAllConnections();
    each.close();
  }
});

async function pageOf(path: string, steps: RenderRequest['steps'] = []): Promise<FetchedPage> {
  const rendered = await renderer.render({ address: base + path, steps });
  if (!rendered.ok) throw new Error(describeFetchProblem(rendered.error));
  return rendered.value;
}

describe('a rendered page', () => {
  it('is read as it is seen: what its script fills in is there, what is not shown is not', async () => {
    const page = await pageOf('/filled');
    const text = visibleText(documentOf(page.body()));
    expect(text).toContain('Smoker £24.00');
    expect(text).not.toMatch(/£1\.00|£2\.00/);
    expect(page.body()).not.toContain('<script');
    expect(visibleText(documentOf((await pageOf('/shadow')).body()))).toContain('In the shadow £7.00');
  });

  it('brings a picture with a box for each element, counted as the body counts them', async () => {
    const page = await pageOf('/filled');
    const document = documentOf(page.body());
    const price = selectElements(document, '.price');
    const n = elementsInOrder(document).indexOf(price.ok ? (price.value[0] as never) : (null as never));
    const box = page.picture?.boxes.find((each) => each.n === n);
    expect(box).toMatchObject({ x: expect.any(Number) as number, h: expect.any(Number) as number });
    expect(box?.w).toBeGreaterThan(20);
    expect(page.picture?.image.subarray(0, 3).toString('hex')).toBe('ffd8ff');
  });

  it('is reached by steps, and stops with a stated reason where one cannot be taken', async () => {
    expect(visibleText(documentOf((await pageOf('/wall')).body()))).not.toContain('Smoker');
    const steps: RenderRequest['steps'] = [
      { act: 'click', at: { words: 'Agree' }, guard: { check: 'says', selector: 'h1', text: 'Smoker', how: 'equal' } },
    ];
    expect(visibleText(documentOf((await pageOf('/wall', steps)).body()))).toContain('Smoker');
    const failed = await renderer.render({
      address: `${base}/wall`,
      steps: [{ act: 'click', at: { words: 'Agree' }, guard: { check: 'text here', text: 'Hive' } }],
    });
    expect(failed).toMatchObject({ ok: false, error: { reason: 'step', number: 1 } });
  });

  it('is walked through: gone to, chosen, scrolled, waited for, and only where it is there', async () => {
    const text = async (path: string, steps: RenderRequest['steps']) =>
      visibleText(documentOf((await pageOf(path, steps)).body()));
    expect(await text('/walk', [{ act: 'go to', address: '/room' }])).toContain('Room');
    expect(
      await text('/walk', [
        { act: 'click', at: { words: 'On' }, guard: { check: 'address', address: `${base}/room` } },
      ]),
    ).toContain('Room');
    expect(await text('/room', [{ act: 'choose', at: { words: 'Size' }, option: 'large' }])).toMatch(/large\s*large/);
    expect(await text('/room', [{ act: 'scroll', screens: 8 }])).toContain('The end came into sight');
    expect(await text('/late', [{ act: 'wait for', at: { selector: '#here' } }])).toContain('Here it is');
    expect(await text('/walk', [{ act: 'click', at: { words: 'Not on this page' }, optional: true }])).toContain(
      'Hall',
    );
  });

  it('has its fields filled and its tabs pressed, and not the headings that are called the same', async () => {
    const page = await pageOf('/tabs', [
      { act: 'fill in', at: { words: 'Offers' }, text: 'care' },
      { act: 'click', at: { words: 'Offers' } },
    ]);
    expect(visibleText(documentOf(page.body()))).toContain('Seen with care');
  });

  it('is signed in to with a secret that opens for its own host alone, and stands in no picture’s words', async () => {
    const sealed = secrets.seal('hush hush', 'request', new URL(base).host);
    const elsewhere = secrets.seal('hush hush', 'request', 'other.example');
    if (!sealed.ok || !elsewhere.ok) throw new Error('nothing was sealed');
    const steps = (secret: { sealed: string }): RenderRequest['steps'] => [
      { act: 'fill in', at: { words: 'Name' }, text: 'Inés' },
      { act: 'fill in', at: { words: 'Password' }, text: secret },
      { act: 'click', at: { words: 'Sign in' } },
    ];
    expect(visibleText(documentOf((await pageOf('/signin', steps(sealed.value))).body()))).toContain('Hello Inés, 9');
    const tried = await renderer.trySteps({ address: `${base}/signin`, steps: steps(sealed.value) });
    expect(tried.ok && tried.value.map((step) => step.said)).toEqual([
      `open ${base}/signin`,
      'fill in “Name” with “Inés”',
      'fill in “Password” with the secret',
      'click “Sign in”',
    ]);
    expect(await renderer.render({ address: `${base}/signin`, steps: steps(elsewhere.value) })).toMatchObject({
      ok: false,
      error: { reason: 'step', number: 2 },
    });
  });
});

describe('a secret typed into a page that shows it again', () => {
  it('is neither in what is kept of the page, nor in its address, nor legible in its picture', async () => {
    const sealed = secrets.seal('hush hush', 'request', new URL(base).host);
    if (!sealed.ok) throw new Error(sealed.error);
    const page = await pageOf('/echo', [
      { act: 'fill in', at: { words: 'Key' }, text: sealed.value },
      { act: 'click', at: { words: 'Show' } },
    ]);
    expect(page.body()).toContain('Your key is •••, shown as disc');
    expect(page.body() + page.finalAddress).not.toMatch(/hush/);
    expect(page.finalAddress).toContain('?key=•••');
  });
});

describe('a page that means harm', () => {
  it(
    'has no way out but the proxy, and the proxy none to the inner network: not by image, frame, fetch, name, ' +
      'socket or WebRTC',
    async () => {
      const page = await pageOf('/escape');
      const text = visibleText(documentOf(page.body()));
      // A refusal of the proxy is an answer to a fetch that asks for none to be shown; what counts is what reached the
      // inner server.
      for (const said of ['socket refused', 'rtc refused', 'done']) expect(text).toContain(said);
      expect(page.body()).not.toContain('SECRET OF THE INNER NETWORK');
      expect(innerAsked).toEqual([]);
      expect(renderer.refused()).toContain(`127.0.0.1:${innerPort}`);
    },
  );

  it('is not followed inside by a redirect', async () => {
    const rendered = await renderer.render({ address: `${base}/away`, steps: [] });
    expect(rendered).toMatchObject({ ok: false, error: { reason: 'private address' } });
    expect(innerAsked).toEqual([]);
  });

  it('that asks its site for ever more is read, and asks no more than a page may', async () => {
    pieces = 0;
    const page = await pageOf('/many-images');
    expect(visibleText(documentOf(page.body()))).toContain('Smoker');
    expect(pieces).toBeGreaterThan(10);
    expect(pieces).toBeLessThanOrEqual(400);
  });

  it('that is made of frames asks no more either, be it read in time or not', async () => {
    pieces = 0;
    await renderer.render({ address: `${base}/many-frames`, steps: [] });
    expect(pieces).toBeGreaterThan(50);
    expect(pieces).toBeLessThanOrEqual(400);
    expect(visibleText(documentOf((await pageOf('/filled')).body()))).toContain('£24.00');
  });

  it('costs the next one nothing where its process ends late', async () => {
    await pageOf('/filled');
    endAll(processesBelow(process.pid));
    expect(visibleText(documentOf((await pageOf('/filled')).body()))).toContain('£24.00');
  });

  it('that never ends, or eats memory, is given up with a reason, and the next page is rendered', async () => {
    for (const path of ['/endless', '/hungry']) {
      const rendered = await renderer.render({ address: base + path, steps: [] });
      if (!rendered.ok) expect(describeFetchProblem(rendered.error)).toMatch(/\.$|^The page could not be rendered/);
      else expect(path).toBe('/hungry');
    }
    expect(visibleText(documentOf((await pageOf('/filled')).body()))).toContain('£24.00');
  });
});

describe('a wall in a frame', () => {
  const wallIn = async (path: string, steps: RenderRequest['steps'] = []) => {
    const page = await pageOf(path, steps);
    const document = documentOf(page.body());
    return { document, boxes: page.picture?.boxes ?? [], wall: wallOn(document, page.picture?.boxes ?? []) };
  };

  it.each(['/framed', '/framed-elsewhere', '/framed-named'])(
    'is seen, measured where it stands and passed: %s',
    async (path) => {
      const { document, boxes, wall } = await wallIn(path);
      expect(wall).toMatchObject({
        kind: 'consent',
        buttons: [{ words: 'Refuse all', at: { words: 'Refuse all' } }, { words: 'Show all' }],
      });
      const n = wall?.buttons[0]?.n ?? -1;
      const box = boxes.find((each) => each.n === n);
      expect([box?.x, box?.y].every((at) => at !== undefined && at > 100 && at < 700)).toBe(true);
      expect(box?.x).toBeGreaterThanOrEqual(200);
      expect(elementsInOrder(document)[n]?.name).toBe('button');
      const after = await wallIn(path, [{ act: 'click', at: { words: 'Refuse all' } }]);
      expect(after.wall).toBeNull();
      expect(visibleText(after.document)).toMatch(/^Shop, entered Smoker £24\.00/);
    },
  );

  it('is pressed by its place there where no words tell a button', async () => {
    const at = { selector: 'body > button:nth-of-type(3)', framed: true } as const;
    expect(visibleText((await wallIn('/framed', [{ act: 'click', at }])).document)).toContain('More');
    const missed = await renderer.render({
      address: `${base}/framed`,
      steps: [{ act: 'click', at: { selector: 'body > button:nth-of-type(3)' } }],
    });
    expect(missed).toMatchObject({ ok: false, error: { reason: 'step' } });
  });

  it.each(['/framed-aside', '/framed-under'])(
    'is none where the frame does not stand before the page: %s',
    async (path) => {
      const { document, wall } = await wallIn(path);
      expect(visibleText(document)).not.toContain('cookies');
      expect(wall).toBeNull();
    },
  );

  it('that is busy with itself ends in a stated reason, and no more than a few are written down', async () => {
    const busy = await renderer.render({ address: `${base}/framed-busy`, steps: [] });
    expect(busy.ok ? visibleText(documentOf(busy.value.body())) : describeFetchProblem(busy.error)).toMatch(
      /£24\.00|did not answer|took longer/,
    );
    expect(
      (visibleText((await wallIn('/framed-many')).document).match(/Before you go on/g) ?? []).length,
    ).toBeLessThanOrEqual(3);
  });

  it('is given no secret', async () => {
    const sealed = secrets.seal('the word', 'request', new URL(base).host);
    if (!sealed.ok) throw new Error(sealed.error);
    const steps: RenderRequest['steps'] = [{ act: 'fill in', at: { words: 'Password' }, text: sealed.value }];
    const refused = await renderer.render({ address: `${base}/framed-sign-in`, steps });
    expect(!refused.ok && describeFetchProblem(refused.error)).toMatch(/not into a frame/);
  });
});
