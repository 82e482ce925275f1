import type { PersonId } from '#core/id';
import type { Condition } from '#core/judge/clause';
import type { RuleDefinition } from '#core/judge/rule';
import { BELOW_OURS, CHEAPEST, UNDER_MINIMUM } from './items';
import { sayHours, sayRoutes } from './hours';
import type { Said } from './rules';
import { pageDefinition, type Field } from '#core/read/definition';
import { money } from '#core/value/parse';
import { DAY, HOUR, type Instant, type Interval } from '#core/when/interval';
import { addList, addPerson } from '#server/db/person/people';
import { inTransaction, type Pool } from '#server/db/base/pool';
import { createWatch, type RulePlan } from '#server/actions/edit-watch';
import { findItem } from '#standins/world/items';
import type { World } from '#standins/world/world';
import type { Body } from '#core/read/body';
import { withFrames } from '#core/read/frame/take';
import type { SourceFetcher } from '#server/fetch/source-fetcher';
import { fetchBody } from './fetched';

/** The analyst that the demo signs in. */
export const ANALYST = 'ines.calloway@heatherlow.example';

/** Who answers for the web shop, and has not confirmed his address. */
export const TOM = 'tom.aske@heatherlow.example';

/** How far back the history goes. */
export const HISTORY = 28 * DAY;

interface Audience {
  pricing: string;
  marta: string;
  tom: string;
}

const LONDON = { locale: 'en-GB', zone: 'Europe/London' };

/** Makes the people of Heatherlow and the list that pricing is told through. */
async function makePeople(
  pool: Pool,
  standinsPort: number,
  now: Instant,
): Promise<{ analyst: PersonId; audience: Audience }> {
  const analyst = await addPerson(pool, { name: 'Inés Calloway', email: ANALYST, ...LONDON, confirmedAt: now });
  const ravi = await addPerson(pool, {
    name: 'Ravi Oduya',
    email: 'ravi.oduya@heatherlow.example',
    ...LONDON,
    confirmedAt: now,
  });
  const marta = await addPerson(pool, {
    name: 'Marta Lindqvist',
    email: 'marta.lindqvist@heatherlow.example',
    ...LONDON,
    confirmedAt: now,
  });
  const tom = await addPerson(pool, { name: 'Tom Aske', email: TOM, ...LONDON, confirmedAt: null });
  await sayHours(pool, ravi, marta, now);
  await sayRoutes(pool, ravi, analyst, `http://receiver.localhost:${standinsPort}/in`, now);
  const pricing = await addList(pool, 'Pricing', [analyst, ravi]);
  return { analyst, audience: { pricing: `list:${pricing}`, marta: `person:${marta}`, tom: `person:${tom}` } };
}

const PRICE: Field = {
  key: 'price',
  label: 'price',
  role: 'price',
  type: { kind: 'money', currency: 'GBP' },
  mode: 'stepwise',
  polarity: 'up is good',
  locale: null,
  locators: [
    { way: 'structured', type: 'Product', path: 'offers.price' },
    { way: 'css', selector: '#price' },
  ],
};

const STOCK: Field = {
  key: 'stock',
  label: 'stock',
  type: { kind: 'text' },
  mode: 'stepwise',
  polarity: 'neither',
  locale: null,
  locators: [{ way: 'css', selector: '.stock' }],
};

const BY_SELECTOR: Field = { ...PRICE, locators: [{ way: 'css', selector: '#price' }] };

const below = (pounds: string): Condition => ({
  kind: 'crossing',
  of: { asked: { field: 'price' } },
  limits: { is: 'below', limit: money(pounds, 'GBP'), inclusive: false },
});
const above = (pounds: string): Condition => ({
  kind: 'crossing',
  of: { asked: { field: 'price' } },
  limits: { is: 'above', limit: money(pounds, 'GBP'), inclusive: false },
});
const changes = (field: string): Condition => ({ kind: 'change', asked: { field } });
const every = (count: number, unit: Interval['unit']): Interval => ({ count, unit });

interface Planned {
  slug: string;
  fields: Field[];
  conditions: Said[];
  frequency: Interval;
  tell: (keyof Audience)[];
}

const WATCHES: Planned[] = [
  {
    slug: 'copper-smoker-large',
    fields: [PRICE, STOCK],
    conditions: [below('22.50'), changes('stock'), UNDER_MINIMUM],
    frequency: every(2, 'hour'),
    tell: ['pricing'],
  },
  {
    slug: 'copper-smoker-small',
    fields: [PRICE],
    conditions: [below('18.00'), BELOW_OURS],
    frequency: every(2, 'hour'),
    tell: ['pricing'],
  },
  {
    slug: 'steel-smoker',
    fields: [PRICE],
    conditions: [changes('price'), CHEAPEST],
    frequency: every(4, 'hour'),
    tell: ['pricing'],
  },
  {
    slug: 'cedar-hive-six',
    fields: [PRICE, STOCK],
    conditions: [below('150.00'), below('140.00'), above('185.00'), changes('stock')],
    frequency: every(3, 'hour'),
    tell: ['pricing', 'marta'],
  },
  {
    slug: 'cedar-hive-eleven',
    fields: [PRICE],
    conditions: [below('205.00')],
    frequency: every(3, 'hour'),
    tell: ['pricing'],
  },
  {
    slug: 'ventilated-suit-m',
    fields: [PRICE, STOCK],
    conditions: [changes('stock')],
    frequency: every(4, 'hour'),
    tell: ['marta'],
  },
  {
    slug: 'extractor-four',
    fields: [BY_SELECTOR],
    conditions: [below('235.00')],
    frequency: every(6, 'hour'),
    tell: ['pricing'],
  },
  {
    slug: 'extractor-nine',
    fields: [PRICE],
    conditions: [above('700.00')],
    frequency: every(6, 'hour'),
    tell: ['pricing'],
  },
  {
    slug: 'jars-340-72',
    fields: [PRICE],
    conditions: [below('30.00')],
    frequency: every(2, 'hour'),
    tell: ['pricing'],
  },
  {
    slug: 'jars-227-84',
    fields: [PRICE],
    conditions: [changes('price')],
    frequency: every(6, 'hour'),
    tell: ['pricing'],
  },
  {
    slug: 'wax-sheets-deep',
    fields: [PRICE],
    conditions: [below('16.00')],
    frequency: every(4, 'hour'),
    tell: ['tom'],
  },
  {
    slug: 'fondant-12',
    fields: [PRICE, STOCK],
    conditions: [changes('price')],
    frequency: every(2, 'hour'),
    tell: ['pricing'],
  },
  { slug: 'syrup-14', fields: [PRICE], conditions: [above('26.00')], frequency: every(6, 'hour'), tell: ['marta'] },
  { slug: 'hive-stand', fields: [PRICE], conditions: [], frequency: every(1, 'day'), tell: [] },
];

/**
 * Makes the people and starts the watches on Skepwright, as of the beginning of the history. Says who is to hear what.
 */
export async function makeScenario(
  pool: Pool,
  standinsPort: number,
  mostAtOnce: number,
  sources: Pick<SourceFetcher, 'fetch'>,
  now: Instant,
): Promise<{ owner: PersonId; tell: (who: string) => string }> {
  const { analyst, audience } = await makePeople(pool, standinsPort, now);
  for (const planned of WATCHES) {
    const source = sourceOf(planned.slug, standinsPort, mostAtOnce);
    const body = await fetchBody(sources, { address: source.address, way: 'plain', request: {} }, now);
    await inTransaction(pool, (db) =>
      createWatch(db, source, planOf(planned, audience, body), { person: analyst, at: now }),
    );
  }
  return { owner: analyst, tell: (who) => audience[who as keyof Audience] };
}

function sourceOf(slug: string, port: number, mostAtOnce: number) {
  const host = `skepwright.localhost:${port}`;
  return { address: `http://${host}/p/${slug}`, host, site: 'Skepwright', mostAtOnce };
}

/** Rules as the scenario says them, each told to the same; those who hear next go by the names of the scenario, too. */
export const rulesOf = (said: Said[], tell: string[], keyOf: (who: string) => string): RulePlan[] =>
  said.map((each) => {
    const definition: RuleDefinition = 'when' in each ? each : { when: each, whenAlreadyMet: 'wait' };
    const steps = definition.steps?.map((step) => ({ ...step, audiences: step.audiences.map(keyOf) }));
    return {
      id: null,
      definition: { ...definition, ...(steps === undefined ? {} : { steps }) },
      audiences: tell.map(keyOf),
    };
  });

function planOf(planned: Planned, audience: Audience, body: Body) {
  const definition = pageDefinition(findItem(planned.slug)?.name ?? planned.slug, planned.fields);
  return {
    definition: withFrames(body, definition),
    frequency: planned.frequency,
    rules: rulesOf(planned.conditions, planned.tell, (who) => audience[who as keyof Audience]),
  };
}

/** What the scenario makes happen on the stage, counted back from the end of the history. */
interface Event {
  before: number;
  happens: (world: World) => void;
}

/** The events of the last days, the earliest first. */
export const EVENTS: Event[] = [
  { before: 9 * DAY, happens: (world) => world.push('page', 'extractor-four', 'missing') },
  { before: 8.4 * DAY, happens: (world) => world.push('page', 'extractor-four', 'there') },
  { before: 2 * DAY + 3 * HOUR, happens: (world) => world.push('price', 'copper-smoker-large', '2150') },
  { before: 2 * DAY, happens: (world) => world.push('page', 'hive-stand', 'retired') },
  { before: 31 * HOUR, happens: (world) => world.push('layout', 'extractor-four', 'rebuilt') },
  ...['wax-sheets-deep', 'fondant-12', 'syrup-14'].map((slug) => ({
    before: 5 * HOUR,
    happens: (world: World) => world.push('layout', slug, 'members first'),
  })),
  { before: 20 * HOUR, happens: (world) => world.push('price', 'jars-340-72', '2940') },
];
