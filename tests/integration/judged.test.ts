import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { RuleId, WatchId } from '#core/id';
import type { Rule } from '#core/judge/engine';
import { asksIn, clausesOf } from '#core/judge/clause';
import type { Latest } from '#core/judge/observation';
import { pageDefinition, type Field, type WatchDefinition } from '#core/read/definition';
import { WHOLE } from '#core/read/records';
import { isMeasure, unitOf, type Measure, type Value } from '#core/value/value';
import { DAY, HOUR, type Instant } from '#core/when/interval';
import { preparePartitions } from '#server/db/base/partitions';
import { inTransaction } from '#server/db/base/pool';
import { claimDue } from '#server/db/source/sources';
import { findWatch } from '#server/db/watch/views/watch-now';
import { createWatch, editWatch } from '#server/actions/edit-watch';
import { moveClock, nextByClockAt } from '#server/pipeline/clock';
import { runSource } from '#server/pipeline/run';
import { openServices, type Services } from '#server/work/services';
import { COARSE, randomRules } from '../support/random-rules';
import { Reference } from '../support/reference/reference';
import { amount, MONDAY, SCALE, type Look } from '../support/rule-play';
import { openSite, type Site } from '../support/site';
import { openWorld, PRICE, type TestWorld } from '../support/world';
import { tries } from '#tests/support/search';

// Random rules on random looks at a page, and on random packs of points of several sensors, through the whole pipeline
// and a real database, with a worker that is ended and started anew in between: held to the plain judge that works
// everything out anew.

const WATCHES = Math.max(4, tries(10));
const RULES_EACH = 25;
const LOOKS = 14;
const AFTER = 8 * HOUR;
const SOONEST = HOUR / 2;

let site: Site;
let world: TestWorld;
let services: Services;
let shown: Look = { at: MONDAY };
let pack: object[] | 'failed' = [];
let now: Instant = MONDAY;

beforeAll(async () => {
  const answer = (
    _: unknown,
    response: { writeHead: (status: number, headers?: Record<string, string>) => { end: (body?: string) => void } },
  ) =>
    shown.failed === true
      ? response.writeHead(503).end()
      : response.writeHead(200, { 'content-type': 'text/html' }).end(html(shown));
  const points = (
    _: unknown,
    response: { writeHead: (status: number, headers?: Record<string, string>) => { end: (body?: string) => void } },
  ) =>
    pack === 'failed'
      ? response.writeHead(503).end()
      : response.writeHead(200, { 'content-type': 'application/senml+json' }).end(JSON.stringify(pack));
  site = await openSite({ '/': answer, '/points': points });
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
  ...PRICE,
  key,
  label: key,
  role: undefined as never,
  type: TYPES[n] as Field['type'],
  locators: [{ way: 'css', selector: `.${key}` }],
  absentWhen: [`no ${key} now`],
  allowed: ['unit', 'nought', 'jump'],
}));

/**
 * A page that says what was read: a value that is known to be missing is said to be, one that was not read is not
 * there.
 */
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
 * What other units are to the judges, weights are on the page; texts that are empty could not be told from none; late
 * points no page has; and a watch passes over what is fetched sooner than it asks for.
 */
const onPage = (looks: Look[]): Look[] =>
  looks
    .filter(({ at }, n) => at - (looks[n - 1]?.at ?? 0) >= SOONEST)
    .map(({ at, failed, read }) => ({
      at,
      ...(failed === undefined ? {} : { failed }),
      ...(read === undefined
        ? {}
        : { read: Object.fromEntries(Object.entries(read).map(([key, value]) => [key, asWritten(value)])) }),
    }));

function asWritten(value: Value): Value {
  if (value.kind === 'money') return { kind: 'number', amount: value.amount, unit: 'kg' };
  return value.kind === 'text' && value.text === '' ? { kind: 'text', text: 'Quiet.' } : value;
}

/** What a watch looks at, and what it finds there at which moments. */
interface Seen {
  path: string;
  definition: WatchDefinition;
  moments: { at: Instant; show: () => void }[];
}

const pageSeen = (looks: Look[]): Seen => ({
  path: '/',
  definition: pageDefinition('Lots', FIELDS),
  moments: looks.map((look) => ({ at: look.at, show: () => (shown = look) })),
});

/**
 * A rule that is said otherwise so long before a look: what judges alike keeps its states, another condition begins
 * anew.
 */
interface Edit {
  before: number;
  which: number;
  to: Rule | 'called otherwise';
}
const SAID_BEFORE = COARSE.grid;

/** Plays looks to a watch under rules; the worker is ended before the looks of which the number is named. */
async function play(
  rules: Rule[],
  { path, definition: read, moments }: Seen,
  endedBefore: number[],
  edits: Edit[] = [],
): Promise<RuleId[]> {
  now = MONDAY;
  const source = { address: `${site.base}${path}`, host: site.host, site: 'Lots', mostAtOnce: 4 };
  const plan = {
    definition: read,
    frequency: { count: 1, unit: 'hour' as const },
    rules: rules.map((definition) => ({ id: null, definition, audiences: [`person:${world.people.ines}`] })),
  };
  const watch = await inTransaction(world.pool, (db) =>
    createWatch(db, source, plan, { person: world.people.ines, at: now }),
  );
  await moveClock(services.pipeline, now);
  for (const [n, { at, show }] of moments.entries()) {
    if (endedBefore.includes(n)) await restart();
    for (const edit of edits.filter(({ before }) => before === n)) {
      await clockUpTo(at - SAID_BEFORE - 1);
      now = at - SAID_BEFORE;
      await sayOtherwise(watch, edit);
    }
    await clockUpTo(at - 1);
    now = at;
    show();
    await world.pool.query('UPDATE due SET due_at = $1, lease_token = NULL', [new Date(now)]);
    await world.pool.query('UPDATE host SET next_at = NULL');
    for (const claimed of await claimDue(world.pool, now, world.config.leaseMs, 5))
      await runSource(services.pipeline, claimed);
    await clockUpTo(now);
  }
  await clockUpTo((moments.at(-1)?.at ?? MONDAY) + AFTER);
  return (await world.rows<{ id: RuleId }>('SELECT id FROM rule WHERE watch_id = $1 ORDER BY id', [watch])).map(
    ({ id }) => id,
  );
}

async function sayOtherwise(id: WatchId, { which, to }: Edit): Promise<void> {
  const watch = await findWatch(world.pool, id);
  if (watch === null) throw new Error('the watch is gone');
  const rules = watch.rules.map((rule, n) => ({
    ...rule,
    definition:
      n !== which
        ? rule.definition
        : to === 'called otherwise'
          ? { ...rule.definition, name: 'Another name', note: 'As before.' }
          : to,
  }));
  const edit = { basedOn: watch.version, editor: world.people.ines };
  await inTransaction(world.pool, (db) => editWatch(db, id, { ...watch, rules }, edit, now));
  await moveClock(services.pipeline, now);
}

async function clockUpTo(to: Instant): Promise<void> {
  for (;;) {
    const next = await nextByClockAt(world.pool);
    if (next === null || next > to) return;
    now = Math.max(now, next);
    await moveClock(services.pipeline, now);
  }
}

/** What is older than a time is so a millisecond after it, which the plain judge counts for its next step. */
const hoursIn = (at: Instant) => (Math.ceil((at - MONDAY) / COARSE.grid) * COARSE.grid) / HOUR;

/** What became of each rule on a record, by what is stored. */
async function stored(rules: RuleId[], record: string): Promise<string[][]> {
  const alerts = await world.rows<{ rule: RuleId; at: Date | Instant; told: string }>(
    `SELECT a.rule_id AS rule, a.seen_at AS at, a.told
      FROM alert a
      JOIN record r ON r.id = a.record_id
      WHERE a.rule_id = ANY($1) AND r.identity = $2`,
    [rules, record],
  );
  const episodes = await world.rows<{
    rule: RuleId;
    opened: Date | Instant;
    raised: Date | Instant;
    closed: Date | Instant | null;
    because: string;
  }>(
    `SELECT e.rule_id AS rule, e.opened_at AS opened, e.raised_at AS raised, e.closed_at AS closed,
  e.closed_because AS because
      FROM episode e
      JOIN record r ON r.id = e.record_id
      WHERE e.rule_id = ANY($1) AND r.identity = $2`,
    [rules, record],
  );
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
function judged(rule: Rule, looks: Look[], until = (looks.at(-1)?.at ?? MONDAY) + AFTER): string[] {
  return new Reference(rule, { intervalMs: HOUR, savedAt: MONDAY }, COARSE.grid)
    .play(looks, until, [])
    .map(([at, what]) => `${hoursIn(at)} ${what.startsWith('alert') ? 'alert' : what}`)
    .sort();
}

/**
 * The same of a rule that is said otherwise once: until then by the one, and what was open is closed; then by the
 * other, which knows what was read.
 */
function judgedWith(rule: Rule, looks: Look[], edit: Edit | undefined): string[] {
  if (edit === undefined || edit.to === 'called otherwise') return judged(rule, looks);
  const at = (looks[edit.before]?.at ?? MONDAY) - SAID_BEFORE;
  const [before, after] = [looks.slice(0, edit.before), looks.slice(edit.before)];
  const first = judged(rule, before, at - COARSE.grid);
  const isOpen =
    first.filter((mark) => mark.includes(' open ')).length > first.filter((mark) => mark.includes(' close ')).length;
  const { baseline, history } = knownBy(before, at);
  const until = (looks.at(-1)?.at ?? MONDAY) + AFTER;
  const second = new Reference(edit.to, { intervalMs: HOUR, savedAt: at }, COARSE.grid)
    .play([...baseline, ...after], until, history)
    .map(([moment, what]) => {
      const [, since] = /^open (.*)$/.exec(what) ?? [];
      return (
        `${hoursIn(moment)} ` +
        `${what.startsWith('alert') ? 'alert' : since === undefined ? what : `open ${hoursIn(at + Math.round(Number(since) * HOUR))}`}`
      );
    });
  return [...first, ...(isOpen ? [`${hoursIn(at)} close edited`] : []), ...second].sort();
}

/** What a rule that is said now judges at once, where that was read within two looks, and what it knows of before. */
function knownBy(looks: Look[], at: Instant): { baseline: Look[]; history: Look[] } {
  const read: Record<string, Value> = {};
  const times: Record<string, Instant> = {};
  for (const look of looks)
    for (const [key, value] of Object.entries(look.read ?? {})) [read[key], times[key]] = [value, look.at];
  const fresh = Object.keys(read).filter((key) => at - (times[key] ?? 0) <= 2 * HOUR);
  const of = (keys: string[]) => Object.fromEntries(keys.map((key) => [key, read[key] as Value]));
  const baseline = { at, moment: Math.max(...fresh.map((key) => times[key] ?? 0)), read: of(fresh), times };
  const history = looks.map((look) => ({
    at: look.at,
    read: Object.fromEntries(
      Object.entries(look.read ?? {}).filter(([key]) => !fresh.includes(key) || times[key] !== look.at),
    ),
  }));
  return { baseline: fresh.length === 0 ? [] : [baseline], history };
}

/** A look in few words, for whoever has to find out why two judges differ. */
const said = ({ at, failed, late, moment, read = {} }: Look) =>
  `${hoursIn(at)}${moment === undefined ? '' : ` of ${hoursIn(moment)}`} ${late === undefined ? '' : `late ${JSON.stringify(late)} `}${
    failed === true
      ? 'failed'
      : Object.entries(read)
          .map(([key, value]) => `${key} ${value.kind === 'absent' ? '~' : written(value)}`)
          .join(', ')
  }`;

/**
 * Of before it was said a rule knows how often a value was seen, and not at which times between the first and the last.
 */
const knowsNoTimes = (rule: Rule): boolean =>
  clausesOf(rule.when).every(
    (clause) =>
      !('of' in clause) ||
      clause.of.over === undefined ||
      ('last' in clause.of.over.of && clause.of.over.of.last === 'readings'),
  );

it(
  'what the whole pipeline stores of random rules, its worker ended and rules said otherwise in between, is what a ' +
    'plain judge comes to',
  async () => {
    const { rule, looks } = randomRules(COARSE);
    const cases = fc.record({
      rules: fc.array(rule, { minLength: RULES_EACH, maxLength: RULES_EACH }),
      looks: looks(LOOKS).map(onPage),
      ended: fc.array(fc.nat(LOOKS - 1), { maxLength: 3 }),
      edits: fc.uniqueArray(
        fc.record({
          before: fc.integer({ min: 1, max: LOOKS - 1 }),
          which: fc.nat(RULES_EACH - 1),
          to: fc.oneof(fc.constant('called otherwise' as const), rule.filter(knowsNoTimes)),
        }),
        { selector: ({ which }) => which, maxLength: 8 },
      ),
    });
    await fc.assert(
      fc.asyncProperty(cases, async ({ rules, looks: seen, ended, edits: all }) => {
        await world.clear();
        // What ends with the hour comes before whatever somebody does at that very moment, and only a worker that is
        // never late would see that.
        const edits = all.filter(
          ({ before }) => before < seen.length && ((seen[before]?.at ?? 0) - SAID_BEFORE) % HOUR !== 0,
        );
        const ids = await play(rules, pageSeen(seen), ended, edits);
        expect(ids).toHaveLength(rules.length);
        const found = await stored(ids, WHOLE);
        for (const [n, each] of rules.entries()) {
          const edit = edits.find(({ which }) => which === n);
          const plain = judgedWith(each, seen, edit);
          expect(
            found[n],
            `${JSON.stringify(each)}, edited ${JSON.stringify(edit)} on\n${seen.map(said).join('\n')}`,
          ).toEqual(plain);
        }
      }),
      { numRuns: WATCHES, endOnFailure: true },
    );
  },
);

const SENSORS = ['a', 'b', 'c'];
/** So many of the points that were sent before are sent again with what is new. */
const SENT_AGAIN = 12;

const SENSED: WatchDefinition = {
  ...pageDefinition('Sensors', []),
  records: { from: 'senml', grouped: true },
  fields: ['value', 'other'].map((key) => ({
    ...PRICE,
    key,
    label: key,
    role: undefined as never,
    type: { kind: 'number', unit: null },
    mode: 'measured',
    locators: [{ way: 'part', part: `value:${key}` }],
  })),
};

interface SentPoint {
  sensor: string;
  key: string;
  at: Instant;
  value: Measure;
  bad: boolean;
}

const inPack = ({ sensor, key, at, value, bad }: SentPoint): object => ({
  n: `${sensor}/${key}`,
  t: at / 1000,
  v: Number(value.amount),
  ...(unitOf(value) === null ? {} : { u: unitOf(value) }),
  ...(bad ? { quality: 'bad' } : {}),
});

/** The points that a look brings of a sensor: numbers alone, now and then of bad quality, and one of before. */
function pointsOf(sensor: string, look: Look, at: Instant): SentPoint[] {
  const point = (key: string, value: Value | undefined, when: Instant, bad = false): SentPoint[] =>
    value !== undefined && isMeasure(value) ? [{ sensor, key, at: when, value: asWritten(value) as Measure, bad }] : [];
  const { read = {}, late } = look;
  const isOut = read.state?.kind === 'state' && read.state.state === 'out';
  const [before] = late?.value ?? [];
  return [
    ...(before === undefined || before.at >= at ? [] : point('value', before.value, before.at)),
    ...point('value', read.value, at),
    ...point('other', read.other, at, isOut),
  ];
}

/**
 * What is shown at each look, with what each sensor is heard of by it: what comes late first, and what was sent before
 * not at all.
 */
function sensed(looks: Look[][]): { moments: Seen['moments']; heard: Map<string, Look[]> } {
  const heard = new Map(SENSORS.map((sensor) => [sensor, [] as Look[]]));
  const [latest, sent] = [new Map<string, Instant>(), [] as SentPoint[]];
  const taken = new Set<string>();
  const moments = (looks[0] ?? []).map(({ at, failed }, n) => {
    if (failed === true) {
      for (const own of heard.values()) own.push({ at, failed });
      return { at, show: () => void (pack = 'failed') };
    }
    const fresh = SENSORS.flatMap((sensor, which) => pointsOf(sensor, looks[which]?.[n] ?? { at }, at)).filter(
      ({ sensor, key, at: when }) => !taken.has(`${sensor} ${key} ${when}`),
    );
    for (const sensor of SENSORS)
      heard.get(sensor)?.push(
        ...heardOf(
          at,
          fresh.filter((point) => point.sensor === sensor),
          latest,
        ),
      );
    const shownNow = [...sent.slice(-SENT_AGAIN), ...fresh].map(inPack);
    for (const { sensor, key, at: when } of fresh) taken.add(`${sensor} ${key} ${when}`);
    sent.push(...fresh);
    return { at, show: () => void (pack = shownNow) };
  });
  return { moments, heard };
}

/** What is heard of a sensor: one time of its points after another. */
function heardOf(at: Instant, points: SentPoint[], latest: Map<string, Instant>): Look[] {
  const times = [...new Set(points.map((point) => point.at))].sort((one, other) => one - other);
  return times.flatMap((moment): Look[] => {
    const now = points.filter((point) => point.at === moment);
    const isLate = ({ sensor, key }: SentPoint) => moment < (latest.get(`${sensor} ${key}`) ?? -Infinity);
    const of = (those: SentPoint[]) => those.filter(({ bad }) => !bad).map(({ key, value }) => [key, value] as const);
    const late = of(now.filter(isLate)).map(([key, value]) => [key, [{ value, at: moment }] as Latest[]] as const);
    const read = of(now.filter((point) => !isLate(point)));
    for (const point of now) if (!isLate(point)) latest.set(`${point.sensor} ${point.key}`, moment);
    if (late.length + read.length === 0) return [];
    return [
      { at, moment, read: Object.fromEntries(read), ...(late.length === 0 ? {} : { late: Object.fromEntries(late) }) },
    ];
  });
}

const NUMBERS = ['value', 'other'];
const isOfNumbers = (rule: Rule): boolean =>
  clausesOf(rule.when).every(
    (clause) =>
      clause.kind !== 'place' &&
      clause.kind !== 'rank' &&
      clause.kind !== 'absence' &&
      asksIn(clause).every(({ field }) => NUMBERS.includes(field)),
  );

it(
  'of points of several sensors, too: late ones, such as come again, bad ones, each at the time that its source ' +
    'says',
  async () => {
    const { rule, looks } = randomRules(COARSE);
    const begun: Look = { at: MONDAY + SOONEST, read: { value: amount('3'), other: amount('3') } };
    const course = looks(LOOKS).map((each) => [
      begun,
      ...each.filter(({ at }, n) => at - Math.max(each[n - 1]?.at ?? 0, begun.at) >= SOONEST),
    ]);
    const cases = fc.record({
      rules: fc.array(rule.filter(isOfNumbers), { minLength: RULES_EACH, maxLength: RULES_EACH }),
      looks: fc.tuple(course, course, course),
      ended: fc.array(fc.nat(LOOKS - 1), { maxLength: 3 }),
    });
    await fc.assert(
      fc.asyncProperty(cases, async ({ rules, looks: each, ended }) => {
        await world.clear();
        const { moments, heard } = sensed(each);
        const ids = await play(rules, { path: '/points', definition: SENSED, moments }, ended);
        for (const sensor of SENSORS) {
          const found = await stored(ids, sensor);
          for (const [n, one] of rules.entries()) {
            const own = heard.get(sensor) ?? [];
            const until = (moments.at(-1)?.at ?? MONDAY) + AFTER;
            expect(found[n], `${sensor}: ${JSON.stringify(one)} on\n${own.map(said).join('\n')}`).toEqual(
              judged(one, own, until),
            );
          }
        }
      }),
      { numRuns: Math.ceil(WATCHES / 3), endOnFailure: true },
    );
  },
);
