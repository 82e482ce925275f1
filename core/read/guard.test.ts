import { describe, expect, it } from 'vitest';
import { openBody, type Body } from './body';
import {
  describeGuard,
  describeGuardFailure,
  failedGuard,
  passes,
  seemingCause,
  type Guard,
  type GuardCause,
} from './guard';
import { documentOf } from '../../tests/support/document';

const page = (html: string): Body => ({ format: 'html', document: documentOf(html) });
const SMOKER = page(
  '<html><body><h1>Copper smoker</h1><table><tr><td>Our price</td><td>£24</td></tr></table></body></html>',
);
const against = (body: Body, guard: Guard, records = 1, address: string | null = 'http://shop.example/p') =>
  failedGuard([guard], { body, address, records });

describe('a guard', () => {
  it.each<[Guard, boolean]>([
    [{ check: 'text here', text: 'copper SMOKER' }, true],
    [{ check: 'text here', text: 'hive' }, false],
    [{ check: 'says', selector: 'h1', text: 'Copper smoker', how: 'equal' }, true],
    [{ check: 'says', selector: 'h1', text: 'smoker', how: 'equal' }, false],
    [{ check: 'says', selector: 'h1', text: 'smoker', how: 'contains' }, true],
    [{ check: 'says', selector: 'h2', text: 'Copper smoker', how: 'equal' }, false],
    [{ check: 'label beside', label: 'Our price' }, true],
    [{ check: 'label beside', label: 'List price' }, false],
    [{ check: 'address', address: 'http://shop.example/p/' }, true],
    [{ check: 'address', address: 'http://shop.example/q' }, false],
    [{ check: 'count', least: 1, most: 3 }, true],
    [{ check: 'count', least: 2, most: null }, false],
    [{ check: 'count', least: null, most: 0 }, false],
  ])('%j holds: %s', (guard, holds) => {
    expect(against(SMOKER, guard) === null).toBe(holds);
    expect(passes(guard, { body: SMOKER, address: 'http://shop.example/p', records: 1 })).toBe(holds);
    expect(describeGuard(guard).length).toBeGreaterThan(5);
  });

  it('on words is for pages: data has none', () => {
    const json = openBody('{"a":1}', 'json', 0);
    expect(json.ok && against(json.value, { check: 'text here', text: 'hive' })).toBe(null);
  });

  const NAMED: Guard = { check: 'says', selector: 'h1', text: 'Copper smoker', how: 'equal' };
  it.each<[string, GuardCause]>([
    ['<h1>Steel smoker</h1><p>£14</p>', 'wrong product'],
    ['<h1>Before you go on</h1><p>We use cookies.</p><button>Accept all</button>', 'consent wall'],
    [
      '<header>Shop <nav>Hives</nav> Free delivery over £60</header><section><h1>Before you go on</h1><p>We use ' +
        'cookies.</p><button>Accept all</button></section>',
      'consent wall',
    ],
    [
      '<h1>Welcome</h1><form><label>Password <input type="password"></label><button>Sign in</button></form>',
      'sign-in page',
    ],
    ['<h1>We no longer sell this</h1>', 'retired page'],
    ['<h1>Nicht gefunden</h1>', 'retired page'],
  ])('that fails on %s tells what it seems: %s', (html, cause) => {
    const failure = against(page(html), NAMED);
    expect(failure?.cause).toBe(cause);
    expect(failure === null ? '' : describeGuardFailure(failure)).toMatch(/^[A-Z].*was expected.*\.$/);
  });

  it('says what stood there instead', () => {
    const failure = against(page('<h1>Steel smoker</h1>'), NAMED);
    expect(failure === null ? '' : describeGuardFailure(failure)).toBe(
      'This is another product: the heading says exactly “Copper smoker” was expected, and it is “Steel smoker”.',
    );
    expect(seemingCause(documentOf('<h1>Copper smoker</h1><p>£24</p>'))).toBe(null);
  });
});
