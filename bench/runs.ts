import { openBody } from '#core/read/body';
import { pageDefinition } from '#core/read/definition';
import { readBody } from '#core/read/read';
import { readConfig } from '#server/config';
import { claimDue } from '#server/db/source/sources';
import { AddressRules } from '#server/fetch/addresses';
import { Fetcher } from '#server/fetch/fetcher';
import { runSource } from '#server/pipeline/run';
import { openServices, type Services } from '#server/work/services';

// One process that runs what is due, or does as much of the floor; `pipeline.ts` starts one or several and times them.

/** What a process is asked: so many pages of the floor from a number on, or all runs that are due at a moment. */
export type AskedRuns = { what: 'floor'; from: number; count: number } | { what: 'runs'; now: number };

const AT_ONCE = 8;
export const HOUR = 3_600_000;
export const START = Date.UTC(2026, 5, 1);

export const DEFINITION = pageDefinition('Copper smoker', [
  {
    key: 'price',
    label: 'price',
    type: { kind: 'money', currency: 'GBP' },
    mode: 'stepwise',
    polarity: 'up is good',
    locale: null,
    locators: [{ way: 'structured', type: 'Product', path: 'offers.price' }],
  },
]);

export const addressOf = (port: number, source: number) => `http://127.0.0.1:${port}/p/${source}`;

async function inLanes<T>(all: T[], work: (each: T) => Promise<void>): Promise<void> {
  const waiting = all.values();
  const lane = async () => {
    for (const each of waiting) await work(each);
  };
  await Promise.all(Array.from({ length: AT_ONCE }, lane));
}

/** Fetches and parses, with the same fetcher, parser and reader; nothing is stored. */
async function floor(fetcher: Fetcher, port: number, from: number, count: number): Promise<number> {
  const sources = Array.from({ length: count }, (_, at) => from + at);
  await inLanes(sources, async (source) => {
    const fetched = await fetcher.fetch({ address: addressOf(port, source) });
    if (!fetched.ok || fetched.value.kind !== 'page') throw new Error('the page did not come');
    const body = openBody(fetched.value.body(), 'html', START);
    const read = body.ok ? readBody(body.value, DEFINITION, { address: null, latest: () => undefined }) : body;
    if (!read.ok || !read.value.records[0]?.fields[0]?.outcome.ok) throw new Error('the page was not read');
  });
  return count;
}

/** Claims, fetches, reads, compares, judges and stores all that is due. */
async function runs({ pool, pipeline }: Services, now: number): Promise<number> {
  for (let done = 0; ;) {
    const claimed = await claimDue(pool, now, HOUR, AT_ONCE * 4);
    if (claimed.length === 0) return done;
    await inLanes(claimed, async (source) => void (await runSource(pipeline, source)));
    done += claimed.length;
  }
}

/** Does what the process that forked this one asks, until it lets go. */
async function serve(port: number): Promise<void> {
  const config = readConfig(process.env);
  const clock = { now: START };
  const services = await openServices(config, () => clock.now);
  const limits = { timeoutMs: 20_000, mostBytes: 5_000_000, mostRedirects: 5, userAgent: 'bench' };
  const fetcher = new Fetcher(new AddressRules(config.admitted), limits);
  const answer = async (asked: AskedRuns): Promise<number> => {
    if (asked.what === 'floor') return floor(fetcher, port, asked.from, asked.count);
    clock.now = asked.now;
    return runs(services, asked.now);
  };
  process.on('message', (asked: AskedRuns) => void answer(asked).then((done) => process.send?.(done)));
  process.once('disconnect', () => process.exit(0));
  process.send?.('ready');
}

const port = process.env.BENCH_PORT;
if (port !== undefined) await serve(Number(port));
