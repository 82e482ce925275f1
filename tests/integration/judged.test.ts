import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { RuleId } from '#core/id';
import type { Rule } from '#core/judge/engine';
import { pageDefinition, type Field } from '#core/read/definition';
import type { Value } from '#core/value/value';
import { DAY, HOUR, type Instant } from '#core/when/interval';
import { preparePartitions } from '#server/db/partitions';
import { inTransaction } from '#server/db/pool';
import { claimDue } from '#server/db/sources';
import { createWatch } from '#server/db/watches';
import { moveClock, nextRuleDueAt } from '#server/pipeline/clock';
import { runSource } from '#server/pipeline/run';
import { openServices, type Services } from '#server/work/services';
import { COARSE, randomRules } from '../support/random-rules';
import { Reference } from '../support/reference/reference';
import { MONDAY, SCALE, type Look } from '../support/rule-play';
import { openSite, type Site } from '../support/site';
import { openWorld, PRICE, type TestWorld } from '../support/world';

// Random rules on random looks at a page, through the whole pipeline and a real database, with a worker that is ended and started anew
// in between: held to the plain judge that works everything out anew.

const WATCHES = Math.max(4, Number(process.env.SHRIKE_SEARCH ?? 100) / 10);
const RULES_EACH = 25;
const LOOKS = 14;
const AFTER = 8 * HOUR;
const SOONEST = HOUR / 2;

let site: Site;
let world: TestWorld;
let services: Services;
let shown: Look = { at: MONDAY };
let now: Instant = MONDAY;

beforeAll(async () => {
  const answer = (_: unknown, response: { writeHead: (status: number, headers?: Record<string, string>) => { end: (body?: string) => void } }) =>
    shown.failed === true ? response.writeHead(503).end() : response.writeHead(200, { 'content-type': 'text/html' }).end(html(shown));
  site = await openSite({ '/': answer });
  world = await openWorld({ SHRIKE_ADMITTED: site.host });
  await preparePartitions(world.pool, MONDAY - DAY, MONDAY + 9 * DAY);
  services = await openServices(world.config, () => now);
});
afterAll(async () => {
  await services.close();
  await world.close();
  site.close();
});

async function restart(): Promise<void> {
  await services.close();
  services = await openServices(world.config, () => now);
}

const KEYS = ['value', 'other', 'state', 'grade', 'text'];
const TYPES: Field['type'][] = [
  { kind: 'number', unit: null },
  { kind: 'number', unit: null },
  { kind: 'state', states: ['in', 'out', 'soon'].map((name) => ({ name, phrases: [`is ${name}`] })) },
  { kind: 'grade', scale: SCALE },
  { kind: 'text' },
];
const FIELDS: Field[] = KEYS.map((key, n): Field => ({
  ...PRICE, key, label: key, role: undefined as never, type: TYPES[n] as Field['type'], locators: [{ way: 'css', selector: `.${key}` }], absentWhen: [`no ${key} now`],
  allowed: ['unit', 'nought', 'jump'],
})); // prettier-ignore

/** A page that says what was read: a value that is known to be missing is said to be, one that was not read is not there. */
function html({ at, read = {} }: Look): string {
  const parts = Object.entries(read).map(([key, value]) =>
    value.kind === 'absent' ? `<i>no ${key} now</i>` : `<p class="${key}">${written(value)}</p>`,
  );
  return `<!doctype html><html lang="en-GB"><body><h1>Lots</h1><b>${at}</b>${parts.join('')}</body></html>`;
}

function written(value: Value): string {
  if (value.kind === 'number') return `${value.amount}${value.unit === null ? '' : ` ${value.unit}`}`;
  if (value.kind === 'state') return `is ${value.state}`;
  if (value.kind === 'grade') return value.grade;
  return value.kind === 'text' ? value.text : '';
}

/**
 * What other units are to the judges, weights are on the page; texts that are empty could not be told from none; late points no page has; and a
 * watch passes over what is fetched sooner than it asks for.
 */
const onPage = (looks: Look[]): Look[] =>
  looks
    .filter(({ at }, n) => at - (looks[n - 1]?.at ?? 0) >= SOONEST)
    .map(({ at, failed, read }) => ({
      at,
      ...(failed === undefined ? {} : { failed }),
      ...(read === undefined ? {} : { read: Object.fromEntries(Object.entries(read).map(([key, value]) => [key, asWritten(value)])) }),
    }));

function asWritten(value: Value): Value {
  if (value.kind === 'money') return { kind: 'number', amount: value.amount, unit: 'kg' };
  return value.kind === 'text' && value.text === '' ? { kind: 'text', text: 'Quiet.' } : value;
}

/** Plays looks to a watch under rules; the worker is ended before the looks of which the number is named. */
async function play(rules: Rule[], looks: Look[], endedBefore: number[]): Promise<RuleId[]> {
  now = MONDAY;
  const source = { address: `${site.base}/`, host: site.host, site: 'Lots', mostAtOnce: 4 };
  const plan = {
    definition: pageDefinition('Lots', FIELDS),
    frequency: { count: 1, unit: 'hour' as const },
    rules: rules.map((definition) => ({ id: null, definition, audiences: [`person:${world.people.ines}`] })),
  };
  const watch = await inTransaction(world.pool, (db) => createWatch(db, source, plan, world.people.ines, now));
  await moveClock(services.pipeline, now);
  for (const [n, look] of looks.entries()) {
    if (endedBefore.includes(n)) await restart();
    await clockUpTo(look.at - 1);
    now = look.at;
    shown = look;
    await world.pool.query('UPDATE due SET due_at = $1, lease_token = NULL', [new Date(now)]);
    await world.pool.query('UPDATE host SET next_at = NULL');
    for (const claimed of await claimDue(world.pool, now, world.config.leaseMs, 5)) await runSource(services.pipeline, claimed);
    await clockUpTo(now);
  }
  await clockUpTo((looks.at(-1)?.at ?? MONDAY) + AFTER);
  return (await world.rows<{ id: RuleId }>('SELECT id FROM rule WHERE watch_id = $1 ORDER BY id', [watch])).map(({ id }) => id);
}

async function clockUpTo(to: Instant): Promise<void> {
  for (;;) {
    const next = await nextRuleDueAt(world.pool);
    if (next === null || next > to) return;
    now = Math.max(now, next);
    await moveClock(services.pipeline, now);
  }
}

/** What is older than a time is so a millisecond after it, which the plain judge counts for its next step. */
const hoursIn = (at: Instant) => (Math.ceil((at - MONDAY) / COARSE.grid) * COARSE.grid) / HOUR;

/** What became of each rule, by what is stored. */
async function stored(rules: RuleId[]): Promise<string[][]> {
  const alerts = await world.rows<{ rule: RuleId; at: Date | Instant; told: string }>('SELECT rule_id AS rule, seen_at AS at, told FROM alert WHERE rule_id = ANY($1)', [rules]); // prettier-ignore
  const episodes = await world.rows<{ rule: RuleId; opened: Date | Instant; raised: Date | Instant; closed: Date | Instant | null; because: string }>('SELECT rule_id AS rule, opened_at AS opened, raised_at AS raised, closed_at AS closed, closed_because AS because FROM episode WHERE rule_id = ANY($1)', [rules]); // prettier-ignore
  return rules.map((rule) =>
    [
      ...alerts.filter((each) => each.rule === rule).map(({ at, told }) => `${hoursIn(+at)} ${told}`),
      ...episodes
        .filter((each) => each.rule === rule)
        .flatMap(({ opened, raised, closed, because }) => [
          `${hoursIn(+raised)} open ${hoursIn(+opened)}`,
          ...(closed === null ? [] : [`${hoursIn(+closed)} close ${because}`]),
        ]),
    ].sort(),
  );
}

/** The same by the plain judge. */
function judged(rule: Rule, looks: Look[]): string[] {
  const until = (looks.at(-1)?.at ?? MONDAY) + AFTER;
  return new Reference(rule, { intervalMs: HOUR, savedAt: MONDAY }, COARSE.grid)
    .play(looks, until, [])
    .map(([at, what]) => `${hoursIn(at)} ${what.startsWith('alert') ? 'alert' : what}`)
    .sort();
}

/** A look in few words, for whoever has to find out why two judges differ. */
const said = ({ at, failed, read = {} }: Look) =>
  `${hoursIn(at)} ${failed === true ? 'failed' : Object.entries(read).map(([key, value]) => `${key} ${value.kind === 'absent' ? '~' : written(value)}`).join(', ')}`; // prettier-ignore

it('what the whole pipeline stores of random rules, its worker ended in between, is what a plain judge comes to', async () => {
  const { rule, looks } = randomRules(COARSE);
  const cases = fc.record({
    rules: fc.array(rule, { minLength: RULES_EACH, maxLength: RULES_EACH }),
    looks: looks(LOOKS).map(onPage),
    ended: fc.array(fc.nat(LOOKS - 1), { maxLength: 3 }),
  });
  await fc.assert(
    fc.asyncProperty(cases, async ({ rules, looks: seen, ended }) => {
      await world.clear();
      const ids = await play(rules, seen, ended);
      expect(ids).toHaveLength(rules.length);
      const found = await stored(ids);
      for (const [n, each] of rules.entries()) {
        const plain = judged(each, seen);
        expect(found[n], `${JSON.stringify(each)} on\n${seen.map(said).join('\n')}`).toEqual(plain);
      }
    }),
    { numRuns: WATCHES, endOnFailure: true },
  );
});
