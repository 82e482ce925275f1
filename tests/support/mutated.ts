import fc from 'fast-check';
import type { Format } from '#core/read/body';

/** A small good body of each format. */
export const SAMPLES: Record<Format, string> = {
  html:
    '<!doctype html><html ' +
    'lang="en-GB"><body><table><tr><th>Lot</th><th>Price</th></tr><tr><td>a</td><td>£2.40</td></tr><tr><td>b</td><td>£3</td></tr><tr><td>c</td><td>£4</td></tr></table>',
  json: '{"offers":[{"ref":"a","price":1.50},{"ref":"b","price":null}]}',
  csv: 'lot;price\na;1,50\nb;2,75\n',
  xml: '<?xml version="1.0"?><lots><lot n="1"><p>1.5</p></lot><lot n="2"><p>2</p></lot></lots>',
  feed: '<feed><entry><id>1</id><title>a</title></entry><entry><id>2</id><title>b</title></entry></feed>',
  metrics: '# TYPE o counter\no_total{r="n"} 12\no_total{r="s"} 14\n# EOF\n',
  senml: '[{"bn":"a/","bt":1763640000,"n":"t","u":"Cel","v":1.5},{"n":"d","vb":true}]',
};

export const PIECES = [
  '',
  '<',
  '"',
  '{',
  '\0',
  '&a;',
  '\uFFFD',
  ';',
  ',',
  '9'.repeat(40),
  '[[[[',
  '�',
  '\n',
  '\\u0000',
  '\\ud800',
  'e999',
  '&#xD800;',
  '-',
];

/** A body with pieces cut, doubled, moved and overwritten. */
export const mutated = (text: string) =>
  fc
    .array(fc.tuple(fc.nat(text.length), fc.nat(12), fc.constantFrom(...PIECES)), { minLength: 1, maxLength: 6 })
    .map((cuts) => cuts.reduce((left, [at, length, put]) => left.slice(0, at) + put + left.slice(at + length), text));
