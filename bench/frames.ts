import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Body } from '#core/read/body';
import { candidateAt } from '#core/read/candidates';
import { pageDefinition, type WatchDefinition } from '#core/read/definition';
import { withFrames } from '#core/read/frame/take';
import { pageFacts, parseHtml, selectElements } from '#core/read/html';
import { listingsOf } from '#core/read/listing/listing';
import { readBody } from '#core/read/read';
import { anyPort } from '#scripts/system/ports';
import { startStandins } from '#standins/server';
import { say, spread } from './figures';
import { pageOf } from './pages';

const ROUNDS = 7;
const ROWS = 500;

/** What reading costs that holds values against their frames, over the same reading without: parsing is in both. */
export async function benchFrames(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'frames-'));
  const [port, smtpPort] = [await anyPort(), await anyPort()];
  const standins = await startStandins({ port, smtpPort, folder, clock: () => Date.UTC(2026, 0, 1) });
  const page = await pageOf(port);
  await standins.close();
  say(
    `frames: a product page of ${Math.round(page.length / 1000)} kB, read with frames over without: ` +
      `${spread(ratios(page, onPage(page), 150))}`,
  );
  const list = listPage();
  say(`frames: a list of ${ROWS} rows, read with frames over without: ${spread(ratios(list, onList(list), 12))}`);
}

function open(html: string): Extract<Body, { format: 'html' }> {
  const parsed = parseHtml(html);
  if (!parsed.ok) throw new Error(parsed.error);
  return { format: 'html', document: parsed.value };
}

function onPage(html: string): WatchDefinition {
  const body = open(html);
  const found = selectElements(body.document, '#price');
  const element = found.ok ? found.value[0] : undefined;
  const picked =
    element === undefined
      ? null
      : candidateAt(body.document, element, { locale: pageFacts(body.document).locale, address: null }, null);
  if (!picked?.ok) throw new Error('nothing was picked');
  const { locators, type } = picked.value;
  return withFrames(
    body,
    pageDefinition('Smoker', [
      { key: 'price', label: 'price', type, mode: 'stepwise', polarity: 'neither', locale: null, locators },
    ]),
  );
}

function onList(html: string): WatchDefinition {
  const body = open(html);
  const [listing] = listingsOf(body);
  if (listing === undefined) throw new Error('no list was found');
  const { records, fields, identity } = listing;
  return withFrames(body, { ...pageDefinition('List', fields), records, identity });
}

function listPage(): string {
  const rows = Array.from(
    { length: ROWS },
    (_, n) => `<tr><td>R-${n}</td><td>Thing ${n}</td><td>£${n + 1}.50</td><td>In stock</td></tr>`,
  );
  return (
    '<html ' +
    `lang="en-GB"><body><h1>List</h1><table><tr><th>Ref</th><th>Name</th><th>Price</th><th>Stock</th></tr>${rows.join('')}</table></body></html>`
  );
}

/** The same definition without its frames. */
function bare({ fields, records, ...rest }: WatchDefinition): WatchDefinition {
  const unframed = fields.map(({ frames: _frames, ...field }) => field);
  if (records.from !== 'rows') return { ...rest, records, fields: unframed };
  const { around: _around, ...known } = records;
  return { ...rest, records: known, fields: unframed };
}

function ratios(html: string, framed: WatchDefinition, times: number): number[] {
  const plain = bare(framed);
  const took = (definition: WatchDefinition): number => {
    const began = performance.now();
    for (let each = 0; each < times; each += 1)
      readBody(open(html), definition, { address: null, latest: () => undefined });
    return performance.now() - began;
  };
  took(plain);
  took(framed);
  return Array.from({ length: ROUNDS }, () => {
    const without = took(plain);
    return took(framed) / without;
  });
}
