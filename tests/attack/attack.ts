import type { PersonId } from '#core/id';
import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import fc from 'fast-check';
import { pageDefinition, type Field } from '#core/read/definition';
import { inTransaction, type Pool } from '#server/db/base/pool';
import { createWatch } from '#server/actions/edit-watch';
import { memoryOf, processesBelow } from '#server/processes';
import type { Running } from '#scripts/system/processes';
import { RAW_ANSWERS } from '../support/raw-answers';
import { openRaw } from '../support/raw';
import { ask, fromOwnPage } from '../support/requests';
import { until } from '../support/until';
import { startBystander, type Bystander } from './bystander';
import { typed } from './typed';
import { addresses, bodies, formulas, forms, HEAVY_PAGES, locators, SLOW_LOCATORS } from './weapons';

// Attacks a whole Shrike as a hostile page, a hostile answer and a hostile request would, beside one good source that
// is to be looked at every two seconds all the while; says of each attack what it did to the processes, to their loops
// and memory, and to the good source.

/** What is attacked. */
export interface Target {
  web: string;
  pool: Pool;
  person: PersonId;
  logFolder: string;
  programs: { web: Running; worker: Running };
  /**
   * The port of the hostile site, and of the one that answers byte by byte; both are admitted under
   * `*.attack.localhost` names.
   */
  ports: { site: number; raw: number };
}

/** How much of each is tried. */
export interface Measure {
  heavy: number;
  bodies: number;
  answers: number;
  requests: number;
  paths: number;
  rendered: number;
  texts: number;
  typed: number;
}

/** How much is tried by `npm run attack`, in a quarter of an hour, and among the tests, in a minute or two. */
export const FULL: Measure = {
  heavy: 45,
  bodies: 8_000,
  answers: 4_000,
  requests: 5_000,
  paths: 3_000,
  rendered: 24,
  texts: 60,
  typed: 120,
};
export const SHORT: Measure = {
  heavy: 6,
  bodies: 200,
  answers: 120,
  requests: 300,
  paths: 60,
  rendered: 3,
  texts: 4,
  typed: 12,
};

const LONGEST_STANDSTILL_MS = 1_000;
const MOST_LOOKS_LATE = 2;

/**
 * Whether an attack did more than it may: ended a process, went uncaught, was answered by a fault of ours, held a loop
 * or a good source up. How long the machine itself stood still, as a process beside them saw it, is none of their
 * doing.
 */
export function gaveWay({ ended, uncaught, errors, loopMs, goodLooks, machineMs }: Outcome): boolean {
  const held = Math.max(loopMs.web, loopMs.worker) - machineMs;
  return (
    ended + uncaught + errors > 0 || held >= LONGEST_STANDSTILL_MS || goodLooks - machineMs / GOOD_MS > MOST_LOOKS_LATE
  );
}

/** What an attack did. */
export interface Outcome {
  name: string;
  tried: number;
  /** Processes that ended. */
  ended: number;
  /** Log lines of what nobody caught. */
  uncaught: number;
  /** The longest that a loop stood still, in milliseconds. */
  loopMs: { web: number; worker: number };
  /** The longest that a process beside them stood still, to which nothing was sent. */
  machineMs: number;
  /** The most memory, in megabytes; the worker's with its browsers. */
  memoryMb: { web: number; worker: number };
  /** Answers of 500 and above. */
  errors: number;
  /** The longest between two looks at the good source, in looks of two seconds. */
  goodLooks: number;
}

const GOOD_MS = 2_000;
const LOOP_WINDOW_MS = 10_500;
const GOOD =
  '<script ' +
  'type="application/ld+json">{"@type":"Product","offers":{"price":"24.00","priceCurrency":"GBP"}}</script><p>£24.00</p>';

const price = (locator: object): Field => ({
  key: 'price',
  label: 'price',
  type: { kind: 'money', currency: null },
  mode: 'stepwise',
  polarity: 'neither',
  locale: null,
  locators: [locator as Field['locators'][number]],
});

/** Draws things of a kind, the same for the same seed. */
function* drawn<Thing>(things: fc.Arbitrary<Thing>, seed: number): Generator<Thing, never> {
  for (let round = 0; ; round += 1) yield* fc.sample(things, { numRuns: 200, seed: seed + round });
}

/** Attacks in every way, one after another; `say` hears of each as it is done. */
export async function attack(
  target: Target,
  measure: Measure,
  seed: number,
  say: (line: string) => void,
): Promise<Outcome[]> {
  const stage = await openStage(target, seed);
  const bystander = startBystander(target.logFolder);
  const outcomes: Outcome[] = [];
  const ways: [string, number, (count: number) => Promise<number>][] = [
    ['heavy pages and slow paths, read', measure.heavy, (count) => heavyPages(target, count)],
    ['mutated bodies, read', measure.bodies, (count) => stage.until('bodies', count)],
    ['raw answers, fetched', measure.answers, (count) => stage.until('answers', count)],
    ['requests and forms', measure.requests, (count) => requests(target, count, seed)],
    ['paths, patterns and formulas, tried', measure.paths, (count) => paths(target, stage.siteOf('good'), count, seed)],
    ['long texts that change, compared', measure.texts, (count) => longTexts(target, () => stage.texts(), count)],
    ['what is long, often or at once, typed', measure.typed, (count) => typed(target.web, count)],
    ['hostile pages and answers, rendered', measure.rendered, (count) => renderedPages(target, count)],
  ];
  for (const [name, count, work] of ways) {
    if (count === 0) continue;
    const outcome = await observe(target, stage.good, bystander, name, () => work(count));
    outcomes.push(outcome);
    say(lineOf(outcome));
  }
  bystander.leave();
  await stage.close();
  return outcomes;
}

/** One outcome as a line of the table. */
export function lineOf({
  name,
  tried,
  ended,
  uncaught,
  errors,
  loopMs,
  machineMs,
  memoryMb,
  goodLooks,
}: Outcome): string {
  const cells = [
    name.padEnd(38),
    tried,
    ended,
    uncaught,
    errors,
    loopMs.worker,
    loopMs.web,
    machineMs,
    memoryMb.worker,
    memoryMb.web,
    goodLooks.toFixed(1),
  ];
  return cells.map((cell) => String(cell).padStart(8)).join(' ');
}

/** The head of the table. */
export const HEAD = [
  'attack'.padEnd(38),
  'tried',
  'ended',
  'uncaught',
  '5xx',
  'loop wk',
  'loop web',
  'machine',
  'MB wk',
  'MB web',
  'good',
]
  .map((cell) => cell.padStart(8))
  .join(' ');

async function observe(
  target: Target,
  good: number,
  bystander: Bystander,
  name: string,
  work: () => Promise<number>,
): Promise<Outcome> {
  await bystander.stoodStill();
  const began = Date.now();
  const pids = { web: target.programs.web.child.pid ?? 0, worker: target.programs.worker.child.pid ?? 0 };
  const memoryMb = { web: 0, worker: 0 };
  const watching = setInterval(() => {
    for (const part of ['web', 'worker'] as const)
      memoryMb[part] = Math.max(
        memoryMb[part],
        Math.round(memoryOf([pids[part], ...processesBelow(pids[part])]) / 1e6),
      );
  }, 1_000);
  const tried = await work();
  // What the loops did is said every ten seconds.
  await sleep(LOOP_WINDOW_MS);
  clearInterval(watching);
  const { web, worker } = target.programs;
  const said = { web: linesSince(target, 'web', began), worker: linesSince(target, 'worker', began) };
  return {
    name,
    tried,
    ended: [web, worker].filter(({ child }) => child.exitCode !== null || child.signalCode !== null).length,
    uncaught: [...said.web, ...said.worker].filter(({ msg }) => msg?.startsWith('nobody caught') === true).length,
    loopMs: { web: longest(said.web), worker: longest(said.worker) },
    machineMs: await bystander.stoodStill(),
    memoryMb,
    errors: said.web.filter(({ status }) => (status ?? 0) >= 500 && status !== 503).length,
    goodLooks: await latenessOf(target.pool, good, began),
  };
}

interface LogLine {
  time?: string;
  msg?: string;
  loopMs?: number;
  status?: number;
}

function linesSince({ logFolder }: Target, name: string, since: number): LogLine[] {
  const lines = readFileSync(join(logFolder, `${name}.log`), 'utf8').split('\n');
  return lines.flatMap((line) => {
    try {
      const read = JSON.parse(line) as LogLine;
      return Date.parse(read.time ?? '') >= since ? [read] : [];
    } catch {
      return [];
    }
  });
}

const longest = (lines: LogLine[]) => Math.max(0, ...lines.map(({ loopMs }) => loopMs ?? 0));

async function latenessOf(pool: Pool, watch: number, since: number): Promise<number> {
  const { rows } = await pool.query<{ gap: number }>(
    `SELECT coalesce(max(extract(epoch FROM gap)), 0)::float8 * 1000 AS gap FROM (
       SELECT started_at - lag(started_at) OVER (ORDER BY started_at) AS gap FROM watch_run
       WHERE watch_id = $1 AND started_at > $2
     ) g`,
    [watch, new Date(since - GOOD_MS)],
  );
  return (rows[0]?.gap ?? 0) / GOOD_MS - 1;
}

interface Stage {
  good: number;
  siteOf: (name: string) => string;
  /** How many long texts were asked for so far. */
  texts: () => number;
  /** Lets watches of a kind look each second, until so many of their looks were answered. */
  until: (kind: 'bodies' | 'answers', count: number) => Promise<number>;
  close: () => Promise<void>;
}

const LANES = 40;

async function openStage(target: Target, seed: number): Promise<Stage> {
  const served = { bodies: 0, answers: 0, texts: 0 };
  const body = drawn(bodies, seed);
  const site = createServer((request, response) => {
    const path = request.url ?? '';
    response.setHeader('content-type', 'text/html; charset=utf-8');
    if (path.startsWith('/heavy/')) return void response.end(HEAVY_PAGES[Number(path.slice(7)) % HEAVY_PAGES.length]);
    if (path.startsWith('/hostile/'))
      return void response.end(`<!doctype html>${RENDERED[Number(path.slice(9)) % RENDERED.length] ?? ''}`);
    if (path.startsWith('/text/')) {
      served.texts += 1;
      return void response.end(`<!doctype html><p id="text">${longText(served.texts)}</p>`);
    }
    if (path.startsWith('/body/')) {
      served.bodies += 1;
      return void response.end(body.next().value);
    }
    response.end(GOOD);
  });
  await new Promise<void>((resolve) => site.listen(target.ports.site, '127.0.0.1', resolve));
  const raw = await openRaw(null, target.ports.raw);
  const answers = Object.values(RAW_ANSWERS);
  raw.say((socket) => {
    socket.once('data', () => {
      served.answers += 1;
      socket.end(answers[served.answers % answers.length] ?? '');
    });
  });
  const siteOf = (name: string) => `http://${name}.localhost:${(site.address() as AddressInfo).port}`;
  const good = await watchOn(
    target,
    `${siteOf('good')}/good`,
    [price({ way: 'structured', type: 'Product', path: 'offers.price' })],
    2,
  );
  const until = async (kind: 'bodies' | 'answers', count: number) => {
    const base = kind === 'bodies' ? `${siteOf('body')}/body/` : `http://raw.localhost:${target.ports.raw}/`;
    const watches: number[] = [];
    for (let lane = 0; lane < LANES; lane += 1)
      watches.push(
        await watchOn(target, `${base}${lane}`, [price(LANE_LOCATORS[lane % LANE_LOCATORS.length] ?? {})], 1),
      );
    const end = Date.now() + 600_000;
    while (served[kind] < count && Date.now() < end) {
      await sleep(1_000);
      // What fails is asked ever more rarely; here it is asked all the same.
      await target.pool.query(
        `WITH reset AS (UPDATE source SET failures = 0 WHERE address LIKE $1 RETURNING id)
         UPDATE due SET due_at = now() FROM reset WHERE source_id = reset.id AND lease_token IS NULL`,
        [`${base}%`],
      );
      await target.pool.query(`UPDATE host SET next_at = NULL`);
    }
    // One by one: several at once would be held in another order than the runs at work hold them.
    for (const watch of watches) await target.pool.query(`UPDATE watch SET state = 'paused' WHERE id = $1`, [watch]);
    await target.pool.query(
      `WITH ended AS (UPDATE source SET interval_ms = NULL WHERE address LIKE $1 RETURNING id)
       UPDATE due SET due_at = NULL FROM ended WHERE source_id = ended.id`,
      [`${base}%`],
    );
    return served[kind];
  };
  const close = async () => {
    site.closeAllConnections();
    await new Promise<void>((resolve) => site.close(() => resolve()));
    await raw.close();
  };
  return { good, siteOf, texts: () => served.texts, until, close };
}

const LANE_LOCATORS = [
  { way: 'css', selector: 'td:nth-child(2)' },
  { way: 'label', label: 'a' },
  { way: 'structured', type: 'Product', path: 'offers.price' },
  { way: 'pattern', pattern: '£([\\d.]+)' },
];

/** Pages for the browser: each would like to end it, to fill it, or to see what it must not. */
const RENDERED = [
  '<script>Array.prototype.join = () => { throw 1 }; Array.prototype.push = () => "x"</script><p>£24.00</p>',
  '<form><input name="attributes"><input name="childNodes"></form><p>£24.00</p>',
  '<script>const held = []; for (let n = 0; n < 1000; n += 1) held.push(new Uint8Array(1e7).fill(n))</script>',
  '<script>let at = document.body; for (let n = 0; n < 20000; n += 1) { const next = ' +
    'document.createElement("div"); at.append(next); at = next }</script>',
  '<script>location.href = "file:///etc/passwd"</script>',
  '<script>for (;;);</script>',
  '<script>for (let n = 0; n < 50; n += 1) open("/x" + n); setInterval(() => alert(1), 1)</script>',
  '<iframe src="http://127.0.0.1:22/"></iframe><script>fetch("http://169.254.169.254/").catch(() => ' +
    '0)</script><p>£24.00</p>',
];

function watchOn(
  { pool, person }: Target,
  address: string,
  fields: Field[],
  seconds: number,
  way: 'plain' | 'rendered' = 'plain',
): Promise<number> {
  const { host } = new URL(address);
  return inTransaction(pool, (db) =>
    createWatch(
      db,
      { address, host, site: host, mostAtOnce: 4, way },
      { definition: pageDefinition('Attack', fields), frequency: { count: seconds, unit: 'second' }, rules: [] },
      { person: person, at: Date.now() },
    ),
  );
}

const LONG_WORDS = 60_000;

/** A text of which every word is another each time. */
const longText = (time: number): string =>
  Array.from({ length: LONG_WORDS }, (_, at) => `w${((at * 7919 + time * 104_729) % 1_000_003).toString(36)}`).join(
    ' ',
  );

/** A page of sixty thousand words, all of them others at each look, under a rule that counts them; and its page. */
async function longTexts(target: Target, served: () => number, count: number): Promise<number> {
  const { pool, person, ports, web } = target;
  const host = `heavy.localhost:${ports.site}`;
  const text: Field = {
    ...price({ way: 'css', selector: '#text' }),
    key: 'text',
    label: 'text',
    type: { kind: 'text' },
  };
  const rule = { when: { kind: 'change', asked: { field: 'text' }, words: 5 }, whenAlreadyMet: 'wait' } as const;
  const watch = await inTransaction(pool, (db) =>
    createWatch(
      db,
      { address: `http://${host}/text/1`, host, site: host, mostAtOnce: 4 },
      {
        definition: pageDefinition('Long', [text]),
        frequency: { count: 1, unit: 'second' },
        rules: [{ id: null, definition: rule, audiences: [`person:${person}`] }],
      },
      { person, at: Date.now() },
    ),
  );
  const before = served();
  const end = Date.now() + 600_000;
  while (served() - before < count && Date.now() < end) {
    await ask(web, `/watches/${watch}`);
    await ask(web, '/reports/new');
    await sleep(500);
  }
  await pool.query(`UPDATE watch SET state = 'paused' WHERE id = $1`, [watch]);
  await pool.query(`UPDATE due SET due_at = NULL FROM source s WHERE s.id = source_id AND s.host = $1`, [host]);
  return served() - before;
}

const HOURLY = 3600;

/** Every heavy page, each read by a plain way and by a slow one. */
async function heavyPages(target: Target, count: number): Promise<number> {
  const ids: number[] = [];
  for (let at = 0; at < count; at += 1) {
    const locator = at % 3 === 0 ? SLOW_LOCATORS[at % SLOW_LOCATORS.length] : { way: 'css', selector: '.price' };
    ids.push(
      await watchOn(target, `http://heavy.localhost:${target.ports.site}/heavy/${at}`, [price(locator ?? {})], HOURLY),
    );
  }
  await looked(target, ids, 240_000);
  return count;
}

async function renderedPages(target: Target, count: number): Promise<number> {
  const ids: number[] = [];
  const raw = Math.floor(count / 3);
  for (let at = 0; at < count - raw; at += 1)
    ids.push(
      await watchOn(
        target,
        `http://heavy.localhost:${target.ports.site}/hostile/${at}`,
        [price({ way: 'css', selector: 'p' })],
        HOURLY,
        'rendered',
      ),
    );
  for (let at = 0; at < raw; at += 1)
    ids.push(
      await watchOn(
        target,
        `http://raw.localhost:${target.ports.raw}/rendered/${at}`,
        [price({ way: 'css', selector: 'p' })],
        HOURLY,
        'rendered',
      ),
    );
  await looked(target, ids, 600_000);
  return count;
}

/** Waits until each of some watches was looked at. */
async function looked({ pool }: Target, ids: number[], mostMs: number): Promise<void> {
  const left = 'SELECT FROM watch WHERE id = ANY($1) AND last_read_at IS NULL';
  await until(
    async () => (await pool.query(left, [ids])).rows.length === 0,
    () => `some of ${ids.length} watches were not looked at in ${mostMs / 1000} s`,
    mostMs,
  );
}

const AT_ONCE = 8;

async function inLanes(count: number, work: (at: number) => Promise<void>): Promise<number> {
  let next = 0;
  const lane = async () => {
    while (next < count) await work(next++);
  };
  await Promise.all(Array.from({ length: AT_ONCE }, lane));
  return count;
}

/** Addresses and forms that nobody means; each is answered, by whatever status, within its time. */
function requests({ web }: Target, count: number, seed: number): Promise<number> {
  const [to, form] = [drawn(addresses, seed), drawn(forms, seed)];
  return inLanes(count, async (at) => {
    const path = to.next().value;
    const asking = at % 2 === 0 ? {} : { form: form.next().value, headers: fromOwnPage(web) };
    await ask(web, path, asking).catch((error: unknown) => {
      throw new Error(`${path} was not answered: ${String(error)}`);
    });
  });
}

/** Ways of finding and formulas, tried on a draft by requests as the set-up makes them. */
async function paths({ web, pool }: Target, site: string, count: number, seed: number): Promise<number> {
  const headers = fromOwnPage(web);
  const begun = await ask(web, '/watches/new', { form: { address: `${site}/heavy/6` }, headers });
  const draft = String(begun.headers.location);
  const [locator, formula] = [drawn(locators, seed), drawn(formulas, seed)];
  const type = encodeURIComponent(JSON.stringify({ kind: 'text' }));
  const { rows } = await pool.query<{ content: object }>('SELECT content FROM draft WHERE id = $1', [
    draft.split('/').at(-1),
  ]);
  return inLanes(count, async (at) => {
    if (at % 10 === 9) {
      const computed = {
        ...price({}),
        key: 'odd',
        label: 'odd',
        type: { kind: 'computed', formula: formula.next().value },
        locators: [],
      };
      const plan = JSON.stringify({ ...rows[0]?.content, fields: [price({ way: 'css', selector: 'td' }), computed] });
      await ask(web, draft, { form: { intent: 'keep', plan, revision: '0', tab: 'attack' }, headers });
      await ask(web, draft, { headers });
      return;
    }
    const asked = at % 200 === 0 ? SLOW_LOCATORS[(at / 200) % SLOW_LOCATORS.length] : locator.next().value;
    const said = encodeURIComponent(JSON.stringify(asked).replace(/\\ud[89a-f][\da-f]{2}/gi, ''));
    await ask(web, `${draft}/try?locator=${said}&type=${type}`, { headers });
  });
}
