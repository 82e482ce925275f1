import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addressOf, isPlain, type SourceRequest } from './request';

const follow: SourceRequest['follow'] = { by: 'link', selector: 'a.next', most: 3 };

describe('the address that is asked for', () => {
  it('is the one she gave where the request adds nothing', () => {
    expect(addressOf('http://shop.example/a?b=1#c', {})).toBe('http://shop.example/a?b=1#c');
    expect(addressOf('http://shop.example/a?b=1', { query: [] })).toBe('http://shop.example/a?b=1');
  });

  it('has the query behind what stands there already, in order', () => {
    const query = [
      { name: 'page', value: '2' },
      { name: 'page', value: '3' },
    ];
    expect(addressOf('http://shop.example/a?b=1', { query })).toBe('http://shop.example/a?b=1&page=2&page=3');
  });

  it('carries any name and value unharmed, and never leads to another host', () => {
    const pair = fc.record({ name: fc.string({ minLength: 1 }), value: fc.string() });
    fc.assert(
      fc.property(fc.array(pair, { minLength: 1, maxLength: 4 }), (query) => {
        const url = new URL(addressOf('http://shop.example/a', { query }));
        expect(url.host).toBe('shop.example');
        expect([...url.searchParams]).toEqual(query.map(({ name, value }) => [name, value]));
      }),
    );
  });
});

describe('word of nothing new', () => {
  it.each<[string, SourceRequest, boolean]>([
    ['of a plain address', {}, true],
    ['with headers and a sign-in', { headers: [{ name: 'X-Team', value: 'ours' }], signIn: { kind: 'bearer', secret: { sealed: '' } } }, true],
    ['of what is asked for by POST', { method: 'POST', body: '{}' }, false],
    ['of a listing, whose other pages may have moved', { follow }, false],
    ['of what is behind steps', { steps: [{ act: 'scroll', screens: 1 }] }, false],
  ])('%s', (_, request, plain) => {
    expect(isPlain(request)).toBe(plain);
  });
});
