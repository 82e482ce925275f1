import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { openBody, type Format } from '../body';
import { pageDefinition } from '../definition';
import { listingsOf } from '../preview';
import { readBody } from '../read';

const AT = Date.UTC(2025, 10, 20, 12);
const BODIES = 10_000;
/** Ten thousand bodies take a minute or two; one that ran away would take for ever. */
const BOUND_MS = 600_000;

const SAMPLES: Record<Format, string> = {
  html: '<!doctype html><html lang="en-GB"><body><table><tr><th>Lot</th><th>Price</th></tr><tr><td>a</td><td>£2.40</td></tr><tr><td>b</td><td>£3</td></tr><tr><td>c</td><td>£4</td></tr></table>',
  json: '{"offers":[{"ref":"a","price":1.50},{"ref":"b","price":null}]}',
  csv: 'lot;price\na;1,50\nb;2,75\n',
  xml: '<?xml version="1.0"?><lots><lot n="1"><p>1.5</p></lot><lot n="2"><p>2</p></lot></lots>',
  feed: '<feed><entry><id>1</id><title>a</title></entry><entry><id>2</id><title>b</title></entry></feed>',
  metrics: '# TYPE o counter\no_total{r="n"} 12\no_total{r="s"} 14\n# EOF\n',
  senml: '[{"bn":"a/","bt":1763640000,"n":"t","u":"Cel","v":1.5},{"n":"d","vb":true}]',
};

/** A body with pieces cut, doubled, moved and overwritten. */
const mutated = (text: string) =>
  fc
    .array(
      fc.tuple(
        fc.nat(text.length),
        fc.nat(12),
        fc.constantFrom('', '<', '"', '{', '\0', '&a;', '\uFFFD', ';', ',', '9'.repeat(40), '[[[[', '�', '\n'),
      ),
      { minLength: 1, maxLength: 6 },
    )
    .map((cuts) => cuts.reduce((left, [at, length, put]) => left.slice(0, at) + put + left.slice(at + length), text));

describe('mutated bodies', () => {
  it.each(Object.keys(SAMPLES) as Format[])(
    'of %s end in records or in a stated reason, ten thousand of them',
    (format) => {
      fc.assert(
        fc.property(mutated(SAMPLES[format]), (text) => {
          const body = openBody(text, format, AT);
          if (!body.ok) return body.error.length > 0;
          for (const listing of listingsOf(body.value)) {
            const definition = { ...pageDefinition('x', listing.fields), records: listing.records, identity: listing.identity };
            const read = readBody(body.value, definition, { address: null, latest: () => undefined });
            if (!read.ok && read.error.reason.length === 0) return false;
          }
          return true;
        }),
        { numRuns: BODIES },
      );
    },
    BOUND_MS,
  );

  it('hold no more memory when they are done', () => {
    setFlagsFromString('--expose-gc');
    const collect = runInNewContext('gc') as () => void;
    const used = () => {
      collect();
      return process.memoryUsage().heapUsed;
    };
    const read = (times: number) => {
      for (let at = 0; at < times; at += 1) {
        const [text = ''] = fc.sample(mutated(SAMPLES.json), { numRuns: 1, seed: at });
        openBody(text, 'json', AT);
      }
    };
    read(500);
    const before = used();
    read(2_000);
    expect(used() - before).toBeLessThan(20_000_000);
  });
});
