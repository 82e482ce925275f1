import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { openBody, type Format } from '../body';
import { pageDefinition } from '../definition';
import { listingsOf } from '../listing/listing';
import { readBody } from '../read';
import { mutated, SAMPLES } from '../../../tests/support/mutated';
import { tries } from '#tests/support/search';

const AT = Date.UTC(2025, 10, 20, 12);
const BODIES = tries(1_000);
/** Ten thousand bodies, as the long run reads them, take a minute or two; one that ran away would take for ever. */
const BOUND_MS = 600_000;

describe('mutated bodies', () => {
  it.each(Object.keys(SAMPLES) as Format[])(
    'of %s end in records or in a stated reason, however they are mutated',
    (format) => {
      fc.assert(
        fc.property(mutated(SAMPLES[format]), (text) => {
          const body = openBody(text, format, AT);
          if (!body.ok) return body.error.length > 0;
          for (const listing of listingsOf(body.value)) {
            const definition = {
              ...pageDefinition('x', listing.fields),
              records: listing.records,
              identity: listing.identity,
            };
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
