import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { redact } from './redact';

describe('a secret that was typed into a page', () => {
  it.each([
    ['as text', '<p>Hello hush hush</p>', 'hush hush', '<p>Hello •••</p>'],
    ['as an attribute', '<input value="hush hush">', 'hush hush', '<input value="•••">'],
    ['with signs that HTML escapes', '<p title="a&amp;b<&quot;">a&amp;b&lt;"</p>', 'a&b<"', '<p title="•••">•••</p>'],
    [
      'in an address',
      'http://a.example/?word=hush+hush&x=hush%20hush',
      'hush hush',
      'http://a.example/?word=•••&x=•••',
    ],
    ['called like an element', '<body><p>body</p></body>', 'body', '<body><p>•••</p></body>'],
    ['too short to be one', '<p>£2.00</p>', '2', '<p>£2.00</p>'],
  ])('is taken out %s', (_, html, secret, expected) => {
    expect(redact(html, [secret])).toBe(expected);
  });

  it('never stays in the words of a page, whatever it is', () => {
    const escape = (text: string) => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
    fc.assert(
      fc.property(fc.string({ minLength: 4, maxLength: 20 }), (secret) => {
        expect(redact(`<p>${escape(secret)}</p><i>kept</i>`, [secret])).toContain('<p>•••</p><i>');
      }),
    );
  });
});
