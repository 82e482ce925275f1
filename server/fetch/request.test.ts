import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { carriedTo, openRequest, isPlain, type SourceRequest } from './request';

const addressOf = (address: string, request: SourceRequest) => openRequest(address, request, () => null)?.address;
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
        const url = new URL(addressOf('http://shop.example/a', { query }) ?? '');
        expect(url.host).toBe('shop.example');
        expect([...url.searchParams]).toEqual(query.map(({ name, value }) => [name, value]));
      }),
    );
  });
});

describe('word of nothing new', () => {
  it.each<[string, SourceRequest, boolean]>([
    ['of a plain address', {}, true],
    [
      'with headers and a sign-in',
      { headers: [{ name: 'X-Team', value: 'ours' }], signIn: { kind: 'bearer', secret: { sealed: '' } } },
      true,
    ],
    ['of what is asked for by POST', { method: 'POST', body: '{}' }, false],
    ['of a listing, whose other pages may have moved', { follow }, false],
    ['of what is behind steps', { steps: [{ act: 'scroll', screens: 1 }] }, false],
  ])('%s', (_, request, plain) => {
    expect(isPlain(request)).toBe(plain);
  });
});

describe('what was typed for one site', () => {
  const request: SourceRequest = {
    method: 'POST',
    headers: [{ name: 'X-Api-Key', value: { sealed: 'k' } }],
    query: [{ name: 'q', value: 'hive' }],
    body: 'x=1',
    signIn: { kind: 'bearer', secret: { sealed: 's' } },
    follow,
    steps: [
      { act: 'click', at: { words: 'More' } },
      { act: 'fill in', at: { words: 'Key' }, text: 'mine' },
    ],
  };

  it('goes along to another address there', () => {
    expect(carriedTo(request, 'http://shop.example/a', 'http://shop.example/b')).toEqual(request);
  });

  it.each(['http://other.example/a', 'https://shop.example/a', 'http://shop.example:81/a'])(
    'does not go to %s',
    (to) => {
      expect(carriedTo(request, 'http://shop.example/a', to)).toEqual({
        follow,
        steps: [{ act: 'click', at: { words: 'More' } }],
      });
    },
  );

  it('is not sent at all where it does not open', () => {
    expect(openRequest('http://shop.example/a', request, () => null)).toBe(null);
    expect(openRequest('http://shop.example/a', request, () => 'open')).toMatchObject({
      headers: [{ value: 'open' }],
      secrets: ['open'],
    });
  });
});
