import type { PersonId } from '#core/id';
import { rulesOf } from './scenario';
import {
  BELOW_WEEK_BEFORE,
  COLD_BROOD,
  COMES,
  crossing,
  DEAR_AND_SHIPPED,
  DOOR,
  FALLS_SINCE_TOLD,
  FEW_LOTS,
  FEW_ORDERS,
  FOULBROOD,
  FUEL_MEDIAN,
  GOES,
  GRADE_LOW,
  GRADE_WORSE,
  HIVE_LOSES,
  LOWEST,
  MANY_WORDS,
  ORDERS_TODAY,
  PHONES_LEAD,
  STORE_SILENT,
  THREE_CHEAPEST,
  UNREAD,
  VISITS_HIGHEST,
  WARM_STORE,
  type Said,
} from './rules';
import type { Body } from '#core/read/body';
import { candidateAt, wholeText } from '#core/read/candidates';
import { inRole, pageDefinition, type Field, type FieldType, type WatchDefinition } from '#core/read/definition';
import { pageFacts, selectElements, type Document } from '#core/read/html';
import { withFrames } from '#core/read/frame/take';
import { listingsOf } from '#core/read/listing/listing';
import { groupOf } from '#core/read/records';
import { money } from '#core/value/parse';
import type { Polarity } from '#core/value/value';
import { DAY, type Instant, type Interval } from '#core/when/interval';
import { inTransaction, type Pool } from '#server/db/base/pool';
import { ensureSite, setSite, type SiteKind } from '#server/db/source/sites';
import { createWatch } from '#server/actions/edit-watch';
import { fetchBody } from './fetched';
import type { SourceFetcher } from '#server/fetch/source-fetcher';
import type { SourceRequest } from '#server/fetch/request';

/** What a set-up works with: where it fetches, whom it is for. */
export interface Setting {
  pool: Pool;
  sources: Pick<SourceFetcher, 'fetch'>;
  port: number;
  mostAtOnce: number;
  owner: PersonId;
  tell: (who: string) => string;
  now: Instant;
}

/**
 * A watch of the scenario that is set up on what its source brings, as the analyst would: by picks and by what is
 * proposed.
 */
export interface SetUp {
  /** How long before the end of the history. */
  before: number;
  name: string;
  host: string;
  path: string;
  site: string;
  rendered?: SourceRequest;
  frequency: Interval;
  rules: Said[];
  tell: string[];
  read: (body: Body, name: string) => WatchDefinition;
}

const every = (count: number, unit: Interval['unit']): Interval => ({ count, unit });

interface Pointed {
  css: string;
  label: string;
  type?: FieldType;
  polarity?: Polarity;
}

/** Points at places of a page. */
const picking =
  (picks: Pointed[], more: Field[] = []) =>
  (body: Body, name: string): WatchDefinition => {
    const document = pageOf(body);
    const typing = { locale: pageFacts(document).locale, address: null };
    const fields = picks.map(({ css, label, type, polarity }): Field => {
      const found = selectElements(document, css);
      const element = found.ok ? found.value[0] : undefined;
      const candidate = element === undefined ? null : candidateAt(document, element, typing, type ?? null);
      if (!candidate?.ok) throw new Error(`${name}: nothing can be read at ${css}`);
      return fieldOf(label, candidate.value.type, candidate.value.locators, polarity);
    });
    return pageDefinition(name, [...fields, ...more]);
  };

/** Takes the records that Shrike proposes, the likeliest or of one kind. */
const listing =
  (change: (definition: WatchDefinition, body: Body) => Partial<WatchDefinition> = () => ({}), wanted = '') =>
  (body: Body, name: string): WatchDefinition => {
    const found = listingsOf(body).find((each) => each.said.includes(wanted));
    if (found === undefined) throw new Error(`${name}: there are no records`);
    const { records, fields, identity, names } = found;
    const definition: WatchDefinition = {
      subject: name,
      records,
      fields,
      identity,
      variant: null,
      chosen: null,
      leftOut: [],
      guards: [],
      names,
    };
    return { ...definition, ...change(definition, body) };
  };

function pageOf(body: Body): Document {
  if (body.format !== 'html') throw new Error('this is no page');
  return body.document;
}

function fieldOf(label: string, type: FieldType, locators: Field['locators'], polarity: Polarity = 'neither'): Field {
  return inRole({ key: label.replace(/\W+/g, '-'), label, type, mode: 'stepwise', polarity, locale: null, locators });
}

const computed = (label: string, formula: string, polarity: Polarity): Field =>
  fieldOf(label, { kind: 'computed', formula }, [], polarity);

const polar = (label: string, polarity: Polarity) => (definition: WatchDefinition) => ({
  fields: definition.fields.map((field) => (field.label === label ? { ...field, polarity } : field)),
});

const OF_A_HIVE = new Set(['weight', 'brood temperature', 'humidity']);

/** Follows what stands at one place alone; what belongs to the extractor turns up as new. */
const only =
  (start: string) =>
  ({ records }: WatchDefinition, body: Body) => {
    const grouped = records.from === 'senml' && records.grouped === true;
    const names =
      body.format === 'senml'
        ? [...new Set(body.points.map((point) => (grouped ? groupOf(point).group : point.name)))]
        : [];
    const chosen = names.filter((name) => name.startsWith(start));
    return { chosen, leftOut: names.filter((name) => !chosen.includes(name) && !name.includes('extractor')) };
  };

const bulletin = (body: Body, name: string): WatchDefinition => {
  const text = fieldOf('text', { kind: 'text', masks: ['visitor \\d+', 'at \\d\\d:\\d\\d:\\d\\d'] }, [
    wholeText(pageOf(body)),
  ]);
  return pageDefinition(
    name,
    [text],
    [{ check: 'says', selector: 'h1', text: 'Regional bee health bulletin', how: 'equal' }],
  );
};

/** Past the consent wall, as a reader would go. */
const REFUSE_COOKIES: SourceRequest = {
  steps: [
    { act: 'click', at: { words: 'Reject' }, optional: true },
    { act: 'wait for', at: { selector: 'h1' } },
  ],
};

/** The rest of the scenario: every other source, each in its own way. */
export const SET_UPS: SetUp[] = [
  {
    before: 28 * DAY,
    name: 'Copper smoker, large',
    host: 'combe-larder',
    path: '/goods/copper-smoker-large',
    site: 'Combe & Larder',
    frequency: every(4, 'hour'),
    rules: [crossing('price', 'below', money('24.00', 'GBP')), FALLS_SINCE_TOLD],
    tell: ['pricing'],
    read: picking(
      [
        { css: 'table table tr:nth-of-type(2) td:nth-of-type(2)', label: 'price', polarity: 'up is good' },
        { css: 'table table tr:nth-of-type(3) td:nth-of-type(2)', label: 'delivery' },
      ],
      [computed('landed', 'price + delivery', 'up is good')],
    ),
  },
  {
    before: 28 * DAY,
    name: 'Everything at Combe & Larder',
    host: 'combe-larder',
    path: '/goods',
    site: 'Combe & Larder',
    frequency: every(12, 'hour'),
    rules: [{ kind: 'change', asked: { field: 'stock' } }, COMES, GOES, LOWEST, THREE_CHEAPEST],
    tell: ['tom'],
    read: listing(polar('price', 'up is good')),
  },
  {
    before: 28 * DAY,
    name: 'Cedar hive, six-frame',
    host: 'imkerhaus',
    path: '/artikel/cedar-hive-six',
    site: 'Imkerhaus Astrel',
    frequency: every(6, 'hour'),
    rules: [{ kind: 'change', asked: { field: 'price' } }, BELOW_WEEK_BEFORE, DEAR_AND_SHIPPED],
    tell: ['pricing'],
    read: picking(
      [
        { css: '[itemprop=price]', label: 'price', polarity: 'up is good' },
        { css: '.versandkosten', label: 'shipping' },
      ],
      [computed('landed', 'price + shipping', 'up is good')],
    ),
  },
  {
    before: 1.5 * DAY,
    name: 'Extractor, four-frame, hand',
    host: 'nectarine-row',
    path: '/item/extractor-four',
    site: 'Nectarine Row',
    frequency: every(6, 'hour'),
    rendered: REFUSE_COOKIES,
    rules: [{ kind: 'change', asked: { field: 'price' } }, UNREAD],
    tell: ['pricing'],
    read: picking([
      { css: '.tag', label: 'price', polarity: 'up is good' },
      { css: '.have', label: 'stock', type: { kind: 'text' } },
    ]),
  },
  {
    before: 28 * DAY,
    name: 'Own prices',
    host: 'heatherlow',
    path: '/',
    site: 'Heatherlow',
    frequency: every(12, 'hour'),
    rules: [],
    tell: [],
    read: listing(),
  },
  {
    before: 28 * DAY,
    name: 'Bee health bulletin',
    host: 'bulletin',
    path: '/',
    site: 'Regional Bee Health',
    frequency: every(6, 'hour'),
    rules: [{ kind: 'change', asked: { field: 'text' } }, FOULBROOD, MANY_WORDS],
    tell: ['marta'],
    read: bulletin,
  },
  {
    before: 28 * DAY,
    name: 'Carrier surcharges',
    host: 'carrier',
    path: '/surcharges',
    site: 'Marlbrook Carriers',
    frequency: every(1, 'day'),
    rules: [{ kind: 'change', asked: { field: 'fuel' } }, FUEL_MEDIAN],
    tell: ['tom'],
    read: listing(polar('fuel', 'up is bad')),
  },
  {
    before: 28 * DAY,
    name: 'Wax and honey lots',
    host: 'supplier',
    path: '/lots',
    site: 'Supplier’s lots',
    frequency: every(12, 'hour'),
    rules: [{ kind: 'change', asked: { field: 'grade' } }, GRADE_WORSE, GRADE_LOW, FEW_LOTS],
    tell: ['marta'],
    read: listing(),
  },
  {
    before: 14 * DAY,
    name: 'Forage reports',
    host: 'forage',
    path: '/atom.xml',
    site: 'Forage',
    frequency: every(6, 'hour'),
    rules: [COMES],
    tell: ['marta'],
    read: listing(),
  },
  {
    before: 10 * DAY,
    name: 'Orders by region and device',
    host: 'webshop',
    path: '/metrics',
    site: 'Web shop',
    frequency: every(1, 'hour'),
    rules: [FEW_ORDERS, PHONES_LEAD, ORDERS_TODAY],
    tell: ['tom'],
    read: listing(polar('orders', 'up is good'), 'orders'),
  },
  {
    before: 28 * DAY,
    name: 'Daily summary',
    host: 'webshop',
    path: '/summary.json',
    site: 'Web shop',
    frequency: every(1, 'day'),
    rules: [VISITS_HIGHEST],
    tell: ['tom'],
    read: listing(),
  },
  {
    before: 28 * DAY,
    name: 'Advertising spend',
    host: 'webshop',
    path: '/spend.csv',
    site: 'Web shop',
    frequency: every(1, 'day'),
    rules: [],
    tell: [],
    read: listing(),
  },
  {
    before: 4 * DAY,
    name: 'Honey store',
    host: 'gateway',
    path: '/senml',
    site: 'Sensor gateway',
    frequency: every(15, 'minute'),
    rules: [WARM_STORE, DOOR, STORE_SILENT],
    tell: ['marta'],
    read: listing(only('apiary/store/')),
  },
  {
    before: 4 * DAY,
    name: 'Hives',
    host: 'gateway',
    path: '/senml',
    site: 'Sensor gateway',
    frequency: every(30, 'minute'),
    rules: [HIVE_LOSES, COLD_BROOD],
    tell: ['marta'],
    read: listing(
      (definition, body) => ({
        ...only('apiary/hive')(definition, body),
        fields: definition.fields.filter(({ label }) => OF_A_HIVE.has(label)),
      }),
      'points as fields',
    ),
  },
];

/** Whose the sites of the scenario are. */
const WHOSE: Record<string, SiteKind> = {
  Heatherlow: 'own',
  Skepwright: 'rival',
  'Combe & Larder': 'rival',
  'Nectarine Row': 'rival',
  'Imkerhaus Astrel': 'rival',
  Wholesale: 'channel',
};

/** Says whose each site is. */
export async function nameSites(pool: Pool): Promise<void> {
  for (const [name, kind] of Object.entries(WHOSE)) await setSite(pool, await ensureSite(pool, name), { name, kind });
}

/** Sets a watch up on what its source brings now. */
export async function begin(setUp: SetUp, setting: Setting): Promise<void> {
  const { pool, sources, port, mostAtOnce, owner, tell, now } = setting;
  const host = `${setUp.host}.localhost:${port}`;
  const address = `http://${host}${setUp.path}`;
  const way = setUp.rendered === undefined ? 'plain' : 'rendered';
  const request = setUp.rendered ?? {};
  const body = await fetchBody(sources, { address, way, request }, now);
  const rules = rulesOf(setUp.rules, setUp.tell, tell);
  const plan = { definition: withFrames(body, setUp.read(body, setUp.name)), frequency: setUp.frequency, rules };
  await inTransaction(pool, (db) =>
    createWatch(db, { address, host, site: setUp.site, mostAtOnce, way, request }, plan, { person: owner, at: now }),
  );
}
