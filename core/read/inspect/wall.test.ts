import { describe, expect, it } from 'vitest';
import { parseHtml, type Document } from '../html';
import { elementsInOrder } from '../picking';
import { pressableAt, wallOn, type Box } from './wall';

/** A page as it was seen: where an element says `data-box="x y w h"`, that is its box. */
function seen(body: string): { document: Document; boxes: Box[] } {
  const parsed = parseHtml(`<!doctype html><html><head><title>Shop</title></head><body>${body}</body></html>`);
  if (!parsed.ok) throw new Error(parsed.error);
  const boxes = elementsInOrder(parsed.value).flatMap((element, n) => {
    const [x, y, w, h] = (element.attribs['data-box'] ?? '').split(' ').map(Number);
    return x === undefined || y === undefined || w === undefined || h === undefined ? [] : [{ n, x, y, w, h }];
  });
  return { document: parsed.value, boxes };
}

function wall(body: string) {
  const { document, boxes } = seen(body);
  return wallOn(document, boxes);
}

const PAGE = `<header data-box="0 0 1280 60">Bee goods</header>
  <main data-box="200 80 880 700"><h1 data-box="200 90 880 50">Copper smoker</h1><p data-box="200 150 880 30">Holds its fire.</p>
  <span data-box="200 200 100 40">£24.50</span></main>`;
const over = (words: string, box = '0 0 1280 900') =>
  `<div data-box="${box}"><section data-box="400 300 480 260">${words}</section></div>`;
const button = (words: string) => `<button data-box="420 480 120 40">${words}</button>`;

describe('a wall before a page is named', () => {
  it.each([
    ['consent', `<h2>A word about cookies</h2>${button('Accept')}${button('Reject')}`],
    ['consent', `<p>Wir und unsere Partner verwenden Cookies.</p>${button('Alle akzeptieren')}`],
    ['consent', `<p>Nous utilisons des cookies et respectons votre vie privée.</p>${button('Tout refuser')}`],
    ['age', `<h2>Are you over 18?</h2><p>Mead is not for children.</p>${button('Yes, I am')}${button('No')}`],
    ['age', `<p>Please confirm that you are of legal drinking age.</p>${button('Enter')}`],
    ['age', `<p>Sind Sie volljährig?</p>${button('Ja')}`],
    [
      'country',
      '<h2>Choose your country</h2><a href="/uk" data-box="420 480 120 40">United Kingdom</a><a href="/de" ' +
        'data-box="420 480 120 40">Deutschland</a>',
    ],
    [
      'country',
      `<p>It looks like you are visiting from Germany. Where should we deliver to?</p>${button('Stay here')}`,
    ],
    [
      'sign-in',
      '<h2>Members only</h2><label>Name <input name="user" data-box="420 400 200 30"></label><input ' +
        `type="password" name="pass" placeholder="Password" data-box="420 440 200 30">${button('Sign in')}`,
    ],
    ['cover', `<h2>Ten per cent off your first order</h2>${button('No, thank you')}`],
  ])('%s', (kind, words) => expect(wall(PAGE + over(words))?.kind).toBe(kind));

  it('where it is a dialog of its own size', () => {
    const dialog =
      '<div role="dialog" aria-modal="true" data-box="440 300 400 260"><p>We use ' +
      `cookies.</p>${button('Accept')}</div>`;
    expect(wall(PAGE + dialog)?.kind).toBe('consent');
  });

  it('where it stands before a curtain without words', () => {
    const curtain =
      '<div data-box="0 0 1280 900"></div><div data-box="440 300 400 260"><p>Are you 18 or ' +
      `older?</p>${button('Yes')}</div>`;
    expect(wall(PAGE + curtain)?.kind).toBe('age');
  });

  it('where it is the whole page', () => {
    const alone =
      '<main data-box="200 80 880 300"><h1>Before you go on</h1><p>We and our partners use ' +
      `cookies.</p>${button('Accept all')}${button('Reject all')}</main>`;
    expect(wall(alone)?.kind).toBe('consent');
    const door =
      '<main data-box="200 80 880 300"><h1>Sign in</h1><input type="email" aria-label="Mail address" data-box="1 1 ' +
      `9 9"><input type="password" aria-label="Password" data-box="1 1 9 9">${button('Sign in')}</main>`;
    expect(wall(door)?.kind).toBe('sign-in');
  });

  it('with the buttons to press and the fields to fill in, as a browser finds them again', () => {
    const found = wall(
      PAGE +
        over(
          '<h2>Trade</h2><label for="who">Trade name</label><input id="who" data-box="1 1 9 9"><input ' +
            `type="password" aria-label="Password" data-box="1 1 9 9">${button('Sign in')}`,
        ),
    );
    expect(found?.buttons.map(({ words, at }) => ({ words, at }))).toEqual([
      { words: 'Sign in', at: { words: 'Sign in' } },
    ]);
    expect(found?.fields).toEqual([
      { label: 'Trade name', secret: false, at: { words: 'Trade name' } },
      { label: 'Password', secret: true, at: { words: 'Password' } },
    ]);
  });

  it('where it stands in a frame before the page, however much of it that covers, and is pressed there', () => {
    const framed = (words: string, box = '700 100 500 700') =>
      `${PAGE}<section role="dialog" data-shrike-frame="" data-box="${box}">${words}</section>`;
    const found = wall(framed(`<p>We use cookies.</p>${button('Accept all')}<div>${button('Accept')}</div>`));
    expect(found?.kind).toBe('consent');
    expect(found?.buttons.map(({ at }) => at)).toEqual([
      { words: 'Accept all' },
      { selector: 'body > div > button', framed: true },
    ]);
    expect(wall(framed(`<p>We use cookies.</p>${button('Accept')}`, '0 800 1280 100'))).toBeNull();
    expect(wall(framed(`<p>Our new catalogue is here.</p>${button('Have a look')}`))).toBeNull();
  });

  it('with a selector where words would fit several things', () => {
    const found = wall(
      PAGE + over(`<p>Cookies</p><button id="all" data-box="420 480 120 40">Accept all</button>${button('Accept')}`),
    );
    expect(found?.buttons.map(({ at }) => at)).toEqual([
      { words: 'Accept all' },
      { selector: expect.stringContaining('button') as string },
    ]);
  });
});

describe('no wall is', () => {
  it.each([
    ['a page', PAGE],
    [
      'a bar at the foot of the page',
      `${PAGE}<div data-box="0 800 1280 100">We use cookies. ${button('Accept')}</div>`,
    ],
    [
      'a short page with such a bar',
      '<main data-box="200 80 880 200"><h1>Copper smoker</h1><p>£24.50</p></main><div role="dialog" data-box="0 ' +
        `800 1280 100">We use cookies. ${button('Accept')}</div>`,
    ],
    [
      'a short page that speaks of cookies of the sort to eat',
      `<main data-box="200 80 880 200"><h1>Honey cookies</h1><p>£4.50</p>${button('Add to basket')}</main>`,
    ],
    [
      'a page with a place to sign in at its edge',
      `${PAGE}<form data-box="900 10 300 40"><input name="user"><input type="password">${button('Sign in')}</form>`,
    ],
    ['a picture behind the words', `<div data-box="0 0 1280 900"></div>${PAGE}`],
    [
      'a list of news to subscribe to',
      `${PAGE}<aside data-box="900 300 300 200"><p>News by mail?</p><input type="email">${button('Subscribe')}</aside>`,
    ],
    ['a hidden one', `${PAGE}<div hidden>Cookies ${button('Accept')}</div>`],
    ['what covers the page without anything to press', `${PAGE}<div data-box="0 0 1280 900">Loading …</div>`],
    [
      'a short notice that links to what is private',
      '<h1>Notice 12</h1><p>The hives of the parish are counted in May.</p><footer><a href="/p">Privacy ' +
        'policy</a> <a href="/c">Cookies</a></footer>',
    ],
    [
      'a short notice with a bar of cookies',
      '<h1>Notice 12</h1><p>The hives of the parish are counted in May.</p><div>We use cookies to make this site ' +
        'better for everyone who visits it. <button>Accept</button></div>',
    ],
    [
      'a short notice with a place to sign in',
      `<h1>Notice 12</h1><p>${'The hives of the parish are counted in May. '.repeat(8)}</p><form><input ` +
        'name="u"><input type="password"><button>Sign in</button></form>',
    ],
    ['an empty page', ''],
  ])('%s', (_, body) => expect(wall(body)).toBeNull());
});

describe('what can be pressed', () => {
  const { document } = seen(
    `<button id="go"><span>Show <b>prices</b></span></button><p>Copper smoker</p><a href="/x">Carriage</a>`,
  );
  const numberOf = (name: string) => elementsInOrder(document).findIndex((element) => element.name === name);

  it('is the button around the place that was pointed at', () => {
    expect(pressableAt(document, numberOf('b'))).toMatchObject({ words: 'Show prices', at: { words: 'Show prices' } });
    expect(pressableAt(document, numberOf('a'))).toMatchObject({ words: 'Carriage' });
  });

  it('is nothing where nothing is pressed', () => {
    expect(pressableAt(document, numberOf('p'))).toBeNull();
    expect(pressableAt(document, 999)).toBeNull();
    expect(pressableAt(document, -1)).toBeNull();
  });
});
