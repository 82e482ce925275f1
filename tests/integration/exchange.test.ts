import type { WatchId } from '#core/id';
import { readFile } from 'node:fs/promises';
import Ajv from 'ajv/dist/2020';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { readExchange, writeExchange, type Exchange } from '#core/plan/exchange';
import type { RuleDefinition } from '#core/judge/rule';
import { money } from '#core/value/parse';
import { pageDefinition } from '#core/read/definition';
import type { Decimal } from '#core/value/decimal';
import { undoWatches } from '#server/actions/bulk';
import { exchangeHere, lookThroughDocument, namesHere, takeExchange, writtenWatches } from '#server/actions/exchange';
import { inTransaction, inTransactionIfOk } from '#server/db/base/pool';
import { ensureSite, setSite } from '#server/db/source/sites';
import { findWatch } from '#server/db/watch/views/watch-now';
import { createWatch, setWatchTags, taggingOf } from '#server/actions/edit-watch';
import { readDocument, writeExchangeCsv } from '#server/shapes/exchange';
import { fallsBelow, openWorld, PRICE, type TestWorld } from '../support/world';

// Watches with their rules, written out and read back.

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(() => world.close());
beforeEach(() => world.clear());

const RICH: RuleDefinition = {
  when: { any: [fallsBelow('10.00'), { all: [fallsBelow('9.00'), { none: [fallsBelow('3.00')] }] }] },
  whenAlreadyMet: 'raise',
  later: 'wait',
  hold: { for: 'time', ms: 3_600_000 },
  only: [
    { by: 'name', holds: 'smoker' },
    { by: 'item', property: 'brand', is: 'Ling' },
  ],
  telling: {
    atMostEvery: 7_200_000,
    together: true,
    putOff: { until: 1_900_000_000_000, zone: 'Europe/London' },
    hours: { days: [1, 5], from: 480, to: 1_080, zone: 'Europe/London' },
  },
  tellsEnd: true,
  carry: ['price'],
  weight: 'high',
  ends: { date: '2030-12-31', zone: 'Europe/London' },
  name: 'Low',
  note: 'Ask first.',
  tags: ['smokers'],
  wording: { worse: { subject: '{record} is dear' } },
};

async function make(name: string, rules: RuleDefinition[], slug = 'copper-smoker-large'): Promise<WatchId> {
  const host = `skepwright.localhost:${world.standins.port}`;
  const source = { address: `http://${host}/p/${slug}`, host, site: 'Skepwright', mostAtOnce: 4 };
  const audiences = ['list:1', `person:${world.people.ravi}`];
  const plan = {
    definition: pageDefinition(name, [PRICE]),
    frequency: { count: 2, unit: 'hour' as const },
    rules: rules.map((definition) => ({ id: null, definition, audiences })),
  };
  return inTransaction(world.pool, (db) => createWatch(db, source, plan, { person: world.people.ines, at: world.now }));
}

const written = async () =>
  writeExchange(await writtenWatches(world.pool, null, 100), await namesHere(world.pool), world.now);

async function linesOf(text: string) {
  const read = readDocument(text);
  if (!read.ok) throw new Error(read.error);
  const { document, refused } = read.value;
  const lines = readExchange(
    document,
    await exchangeHere(
      world.pool,
      document.watches.map(({ number, address, reads }) => ({ number, address, subject: reads.subject })),
      'en-GB',
    ),
  );
  return { lines, refused };
}

async function take(text: string): Promise<number> {
  const { lines } = await linesOf(text);
  return inTransaction(world.pool, (db) => takeExchange(db, lines, 4, { person: world.people.ines, at: world.now }));
}

/** Limits one beyond the other, of what shares a label, all of a record that is named. */
const STEPPED: RuleDefinition = {
  when: {
    all: [
      {
        kind: 'level',
        of: { asked: { field: 'price', sharing: { label: 'hive', where: { label: 'sensor', is: 'door' } } } },
        limits: {
          is: 'above',
          limit: money('20.00', 'GBP'),
          inclusive: false,
          further: [money('22.00', 'GBP'), money('25.00', 'GBP')],
        },
      },
      { kind: 'state', asked: { field: 'price', record: 'page' }, how: { is: { kind: 'text', text: 'x' } } },
      { kind: 'change', asked: { field: 'price' } },
    ],
  },
  whenAlreadyMet: 'wait',
};

const json = (document: Exchange) => JSON.stringify(document);
const plain: RuleDefinition = { when: fallsBelow('22.00'), whenAlreadyMet: 'wait' };
const sameButNumbers = ({ watches }: Exchange) => watches.map(({ number: _number, ...watch }) => watch);

it('a document that is written has the shape that its schema says', async () => {
  const one = await make('One', [plain, RICH, STEPPED]);
  const other = { field: 'price', watch: one, called: 'One', within: 3_600_000 };
  const below: RuleDefinition['when'] = {
    kind: 'against',
    asked: { field: 'price' },
    other,
    is: 'below',
    by: { by: 'percent', percent: '0' as Decimal },
    inclusive: false,
  };
  await make('Two', [{ ...plain, when: below }], 'steel-smoker');
  const schema = JSON.parse(
    await readFile(new URL('../../docs/watches.schema.json', import.meta.url), 'utf8'),
  ) as object;
  const validate = new Ajv({ allErrors: true }).compile(schema);
  const document = JSON.parse(json(await written())) as { watches: { rules: { when: object }[] }[] };
  expect([validate(document), validate.errors]).toEqual([true, null]);
  const [rule] = document.watches[0]?.rules ?? [];
  if (rule !== undefined) rule.when = { kind: 'magic' };
  expect(validate(document)).toBe(false);
});

describe.each([
  ['JSON', json],
  ['CSV', writeExchangeCsv],
])('watches as %s', (_as, text) => {
  it('that are read back where they came from change nothing', async () => {
    const id = await make('One', [plain, RICH, STEPPED]);
    const watch = await findWatch(world.pool, id);
    if (watch !== null)
      await inTransaction(world.pool, (db) =>
        setWatchTags(db, [taggingOf(watch, ['a', 'b'])], { person: world.people.ines, at: world.now }),
      );
    const { lines, refused } = await linesOf(text(await written()));
    expect([lines.map(({ does, said }) => [does, said]), refused]).toEqual([[['nothing', []]], []]);
  });

  it('that are read back where nothing is make the same, all undone at one go', async () => {
    await make('One', [plain]);
    await make('Two', [{ ...plain, owner: world.people.ravi, weight: 'low' }], 'steel-smoker');
    const before = await written();
    await world.clear();
    const batch = await take(text(before));
    expect(sameButNumbers(await written())).toEqual(sameButNumbers(before));
    expect(
      await inTransactionIfOk(world.pool, (db) => undoWatches(db, batch, { person: world.people.ines, at: world.now })),
    ).toMatchObject({
      ok: true,
    });
    expect((await written()).watches).toEqual([]);
  });
});

describe('a document', () => {
  it('changes what is said otherwise, line by line', async () => {
    const id = await make('One', [plain]);
    const document = await written();
    const [watch] = document.watches;
    if (watch === undefined) throw new Error('nothing was written');
    const other = {
      ...watch,
      every: { count: 1, unit: 'day' as const },
      state: 'paused' as const,
      rules: [
        { when: fallsBelow('21.00'), whenAlreadyMet: 'wait' as const, tells: watch.rules[0]?.tells.slice(1) ?? [] },
      ],
    };
    const { lines } = await linesOf(json({ ...document, watches: [other] }));
    expect(lines).toMatchObject([{ does: 'changes', watch: id }]);
    expect(lines[0]?.said).toEqual([
      'paused',
      'runs: every 2 hours → every day',
      expect.stringContaining('when: price falls below £22.00 → price falls below £21.00'),
    ]);
    await take(json({ ...document, watches: [other] }));
    expect(await findWatch(world.pool, id)).toMatchObject({ state: 'paused', frequency: { count: 1, unit: 'day' } });
  });

  it('finds channels and other watches by what they are here, and refuses what is not', async () => {
    await setSite(world.pool, await ensureSite(world.pool, 'Wholesale'), { name: 'Wholesale', kind: 'channel' });
    const [channel] = await world.rows<{ id: number }>(`SELECT id FROM site WHERE name = 'Wholesale'`);
    const ours = await make('Ours', []);
    const by = { by: 'percent' as const, percent: '0' as Decimal };
    const against = (other: object): RuleDefinition => ({
      when: {
        kind: 'against',
        asked: { field: 'price' },
        other: { field: 'price', ...other },
        is: 'below',
        by,
        inclusive: false,
      },
      whenAlreadyMet: 'wait',
    });
    await make('Rival', [against({ watch: ours }), against({ item: 'ours', channel: channel?.id })], 'steel-smoker');
    const document = await written();
    expect(document.channels).toEqual({ [String(channel?.id)]: 'Wholesale' });
    expect((await linesOf(json(document))).lines.map(({ does }) => does)).toEqual(['nothing', 'nothing']);
    await world.clear();
    const { lines } = await linesOf(json(document));
    expect(lines[1]).toMatchObject({ does: 'refused' });
    expect(lines[1]?.said.join(' ')).toMatch(/which is not here/);
    expect(lines[1]?.said.join(' ')).toMatch(/no channel here goes by “Wholesale”/);
  });

  const [first] = [fallsBelow('22.00')];
  it.each<[string, (watch: Exchange['watches'][number]) => object, RegExp]>([
    [
      'nobody by that name',
      (watch) => ({ ...watch, rules: [{ ...plain, tells: ['list:Nobody'] }] }),
      /nobody here goes by “list:Nobody”/,
    ],
    [
      'a field that is not read',
      (watch) => ({ ...watch, rules: [{ ...plain, when: { kind: 'change', asked: { field: 'stock' } }, tells: [] }] }),
      /asks for “stock”/,
    ],
    [
      'what no rule may say',
      (watch) => ({
        ...watch,
        rules: [
          {
            ...plain,
            hold: { for: 'readings', count: 2 },
            when: { kind: 'change', asked: { field: 'price' } },
            tells: [],
          },
        ],
      }),
      /cannot hold/,
    ],
    [
      'an owner who is not here',
      (watch) => ({ ...watch, rules: [{ ...plain, owner: 'x@y.example', tells: [] }] }),
      /nobody here has the address/,
    ],
    [
      'a kind that is unknown',
      (watch) => ({ ...watch, rules: [{ ...plain, when: { ...first, kind: 'magic' }, tells: [] }] }),
      /no shape/,
    ],
    [
      'a selector for a field',
      (watch) => ({ ...watch, reads: { ...watch.reads, fields: [{ key: '../x' }] } }),
      /no shape/,
    ],
    [
      'frames of another kind',
      (watch) => ({
        ...watch,
        reads: { ...watch.reads, fields: watch.reads.fields.map((field) => ({ ...field, frames: [{ before: 3 }] })) },
      }),
      /no shape/,
    ],
    ['less than a look', (watch) => ({ ...watch, every: { count: 0, unit: 'hour' } }), /no shape/],
    ['less than a run a year', (watch) => ({ ...watch, every: { count: 400, unit: 'day' } }), /run a year/],
    [
      'a last day that is none',
      (watch) => ({ ...watch, rules: [{ ...plain, ends: { date: '2026-13-45', zone: 'UTC' }, tells: [] }] }),
      /last day|no shape/,
    ],
    [
      'hours that end as they begin',
      (watch) => ({
        ...watch,
        rules: [{ ...plain, telling: { hours: { days: [1], from: 480, to: 480, zone: 'UTC' } }, tells: [] }],
      }),
      /between which times/,
    ],
    [
      'a formula that cannot be read',
      (watch) => ({
        ...watch,
        reads: {
          ...watch.reads,
          fields: [
            ...watch.reads.fields,
            { ...PRICE, key: 'sum', label: 'sum', locators: [], type: { kind: 'computed', formula: 'price +' } },
          ],
        },
      }),
      /Say how sum is computed/,
    ],
    [
      'a step that tells nobody',
      (watch) => ({ ...watch, rules: [{ ...plain, steps: [{ after: 3_600_000, audiences: [] }], tells: [] }] }),
      /who is told|no shape/,
    ],
    [
      'a condition of thousands of clauses',
      (watch) => ({ ...watch, rules: [{ ...plain, when: { any: Array(2_000).fill(first) }, tells: [] }] }),
      /too long/,
    ],
  ])('refuses %s, and what stands beside it is taken', async (_what, spoil, because) => {
    await make('One', [plain]);
    await make('Two', [plain], 'steel-smoker');
    const document = await written();
    await world.clear();
    const [one, two] = document.watches;
    const { lines, refused } = await linesOf(JSON.stringify({ ...document, watches: [spoil(one as never), two] }));
    expect(
      [
        ...lines.filter(({ does }) => does === 'refused').flatMap(({ said }) => said),
        ...refused.map(({ said }) => said),
      ].join(' '),
    ).toMatch(because);
    expect(lines.filter(({ does }) => does === 'adds').map(({ name }) => name)).toEqual(['Two']);
  });

  it('takes a watch once that a document says twice', async () => {
    await make('One', [plain]);
    const document = await written();
    await world.clear();
    const [one] = document.watches;
    const { lines } = await linesOf(JSON.stringify({ ...document, watches: [one, { ...one, number: 7 }] }));
    expect(lines.map(({ does, said }) => [does, ...(does === 'refused' ? said : [])])).toEqual([
      ['adds'],
      ['refused', 'Another line of this document says the same watch.'],
    ]);
  });

  it.each([
    ['{"format": "other"}', /no document of watches/],
    ['{', /did not arrive whole/],
    ['a,b\n1,2', /columns are missing/],
    ['', /no rows/],
    [`{"a":${'['.repeat(60)}${']'.repeat(60)}}`, /did not arrive whole/],
  ])('that is none is refused whole: %s', async (text, because) => {
    const read = readDocument(text);
    expect(read.ok ? '' : read.error).toMatch(because);
  });
});

it('a document that is looked through part by part, in a thread, says of each line what it would do', async () => {
  await make('One', [plain]);
  const document = await written();
  const [one] = document.watches;
  const many = Array.from({ length: 120 }, (_, at) =>
    at % 7 === 3 ? { number: at } : { ...one, number: 1_000 + at, reads: { ...one?.reads, subject: `Thing ${at}` } },
  );
  const text = JSON.stringify({ ...document, watches: [one, ...many] });
  const { reading } = world.services.pipeline;
  const seen = await lookThroughDocument(world.pool, reading, text, 'en-GB');
  if (!seen.ok) throw new Error(seen.error);
  expect(seen.value.map(({ line }) => line)).toEqual(Array.from({ length: 121 }, (_, at) => at + 1));
  expect(seen.value[0]).toMatchObject({ name: 'One', does: 'nothing' });
  seen.value
    .slice(1)
    .forEach(({ name, does }, at) =>
      expect([name, does]).toEqual(at % 7 === 3 ? ['', 'refused'] : [`Thing ${at}`, 'adds']),
    );
  const none = await lookThroughDocument(world.pool, reading, '{"format": "other"}', 'en-GB');
  expect(none.ok ? '' : none.error).toMatch(/no document of watches/);
});
