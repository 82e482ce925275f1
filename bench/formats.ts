import { openBody, type Format } from '#core/read/body';
import { listingOf } from '#core/read/listing/listing';
import { readBody } from '#core/read/read';
import type { RecordSource, WatchDefinition } from '#core/read/definition';
import { median, say, spread } from './figures';

// Records read a second from a large feed, typed and told apart, over its parse alone with the same parser.

const POINTS = 10_000;
const ROUNDS = 9;
const AT = Date.UTC(2026, 5, 1);

function senml(): string {
  const points = Array.from(
    { length: POINTS },
    (_, at) => `{"n":"sensor${at}/temperature","u":"Cel","v":${(10 + (at % 200) / 10).toFixed(1)},"t":${-(at % 60)}}`,
  );
  return `[{"bn":"field/","bt":1780000000},${points.join(',')}]`;
}

function openMetrics(): string {
  const samples = Array.from(
    { length: POINTS },
    (_, at) => `orders_total{region="r${at % 100}",device="d${at % 10}",shop="s${at}"} ${at * 7}`,
  );
  return `# TYPE orders counter\n${samples.join('\n')}\n# EOF\n`;
}

/** Measures both formats. */
export function benchFormats(): void {
  measure('SenML, 10,000 points       ', senml(), 'senml', { from: 'senml' });
  measure('OpenMetrics, 10,000 samples', openMetrics(), 'metrics', { from: 'metrics', family: 'orders' });
}

function measure(name: string, text: string, format: Format, records: RecordSource): void {
  const definition = definitionFor(text, format, records);
  const figures: { read: number; parsed: number }[] = [];
  for (let round = 0; round <= ROUNDS; round += 1) {
    const parsed = timed(() => openBody(text, format, AT));
    const read = timed(() => {
      const body = openBody(text, format, AT);
      const outcome = body.ok ? readBody(body.value, definition, { address: null, latest: () => undefined }) : body;
      if (!outcome.ok || outcome.value.records.length !== POINTS) throw new Error(`${name} was not read`);
    });
    if (round > 0) figures.push({ read, parsed });
  }
  const perSecond = (ms: number) => Math.round((POINTS / ms) * 1000).toLocaleString('en');
  const [read, parsed] = [median(figures.map((each) => each.read)), median(figures.map((each) => each.parsed))];
  say(
    `${name}: ${perSecond(read)} records/s read, ${perSecond(parsed)} points/s parsed alone; ratio ` +
      `${spread(figures.map((each) => each.parsed / each.read))}`,
  );
}

function definitionFor(text: string, format: Format, records: RecordSource): WatchDefinition {
  const body = openBody(text, format, AT);
  const listing = body.ok ? listingOf(body.value, records) : null;
  if (listing === null) throw new Error('nothing to measure');
  const { fields, identity } = listing;
  return { subject: 'feed', records, fields, identity, variant: null, chosen: null, leftOut: [], guards: [] };
}

function timed(work: () => void): number {
  const began = performance.now();
  work();
  return performance.now() - began;
}
