import { pageDefinition } from '#core/read/definition';
import { PRICE } from './price';

/** A document of so many watches of a shop, each with these rules. */
export function documentOf(count: number, rules: readonly object[]): string {
  const watches = Array.from({ length: count }, (_, at) => ({
    number: at + 1,
    address: `http://shop.example/p/${at + 1}`,
    way: 'plain',
    request: {},
    site: 'Shop',
    every: { count: 1, unit: 'day' },
    state: 'running',
    tags: [],
    reads: pageDefinition(`Thing ${at + 1}`, [PRICE]),
    rules,
  }));
  return JSON.stringify({ format: 'shrike watches', version: 1, written: '2026-12-01', channels: {}, watches });
}

/** A text as the field of a form that a browser sends it in, with the type of that. */
export const asFile = (text: string): { body: string; type: string } => ({
  body: `--between-the-parts\r\nContent-Disposition: form-data; name="text"\r\n\r\n${text}\r\n--between-the-parts--\r\n`,
  type: 'multipart/form-data; boundary=between-the-parts',
});
