import { NUMBER_OF_RECORDS } from '#core/read/all-records';
import type { Figure, Limits } from '#core/judge/asked';
import type { Clause, Condition } from '#core/judge/clause';
import type { RuleDefinition } from '#core/judge/rule';
import type { Decimal } from '#core/value/decimal';
import type { Measure } from '#core/value/value';
import { DAY, HOUR } from '#core/when/interval';

// Rules of every kind, each on a source of the scenario whose history shows it at work.

/** A rule of the scenario: a condition alone, or with all that it asks beside it. */
export type Said = Condition | RuleDefinition;

const LONDON = 'Europe/London';

const quantity = (amount: string, unit: string | null): Measure => ({
  kind: 'number',
  amount: amount as Decimal,
  unit,
});
const percent = (figure: string): Figure => ({ by: 'percent', percent: figure as Decimal });
const rule = (when: Condition, more: Partial<RuleDefinition> = {}): RuleDefinition => ({
  when,
  whenAlreadyMet: 'wait',
  ...more,
});
const asked = (field: string) => ({ asked: { field } });
const below = (limit: Measure, inclusive = false): Limits => ({ is: 'below', limit, inclusive });
const above = (limit: Measure): Limits => ({ is: 'above', limit, inclusive: false });
const atOrAbove = (limit: Measure): Limits => ({ is: 'above', limit, inclusive: true });

/** A value that passes a limit. */
export const crossing = (field: string, direction: 'below' | 'above', limit: Measure): Clause => ({
  kind: 'crossing',
  of: asked(field),
  limits: { is: direction, limit, inclusive: false },
});

export const FALLS_SINCE_TOLD = rule(
  { kind: 'move', ...asked('price'), against: { base: 'told' }, rise: null, fall: percent('4') },
  { carry: ['delivery', 'landed'], name: 'Copper smoker falls by 4 % since we heard' },
);

export const COMES: Clause = { kind: 'record', how: 'appears' };
export const GOES: Clause = { kind: 'record', how: 'vanishes' };

/** The cheapest thing of the shop has changed hands: a leader for its front page. */
export const LOWEST: Clause = { kind: 'place', ...asked('price'), among: 'records', end: 'lowest', how: 'takes' };

/** Of the cheapest things of the shop, whichever they are this week. */
export const THREE_CHEAPEST = rule(
  { kind: 'move', ...asked('price'), against: { base: 'last' }, rise: percent('2'), fall: percent('2') },
  {
    only: [{ by: 'lowest', field: 'price', count: 3, anew: 'week', zone: LONDON }],
    weight: 'low',
    tags: ['front page'],
  },
);

export const BELOW_WEEK_BEFORE: Clause = {
  kind: 'before',
  ...asked('price'),
  by: 'week',
  zone: LONDON,
  rise: null,
  fall: percent('3'),
};

const euros = (amount: string): Measure => ({ kind: 'money', amount: amount as Decimal, currency: 'EUR' });

/** Both at once: it asks a lot, and then a lot for the way. */
export const DEAR_AND_SHIPPED = rule(
  {
    all: [
      { kind: 'level', of: asked('price'), limits: above(euros('190.00')) },
      { kind: 'level', of: asked('shipping'), limits: atOrAbove(euros('10.00')) },
    ],
  },
  { hold: { for: 'readings', count: 2 }, weight: 'low' },
);

export const UNREAD = rule(
  { kind: 'silence', ...asked('price'), how: { of: 'runs', count: 3 } },
  { weight: 'low', name: 'Nectarine Row shows us nothing' },
);

export const FOULBROOD = rule(
  { kind: 'text', ...asked('text'), how: { phrase: 'foulbrood', is: 'appears' } },
  { weight: 'high' },
);
export const MANY_WORDS: Clause = { kind: 'change', ...asked('text'), words: 20 };

export const FUEL_MEDIAN: Clause = {
  kind: 'move',
  ...asked('fuel'),
  against: { base: 'median', of: 7 },
  rise: percent('5'),
  fall: percent('5'),
};

export const GRADE_WORSE: Clause = { kind: 'grade', ...asked('grade'), how: { moves: 'worse', steps: 1 } };
/** When the list grows short it is time to buy. */
export const FEW_LOTS = rule(crossing(NUMBER_OF_RECORDS, 'below', quantity('10', null)), {
  name: 'Fewer than 10 lots on offer',
});

/** Of many poor lots that come in one list one mail is enough. */
export const GRADE_LOW = rule(
  { kind: 'grade', ...asked('grade'), how: { is: 'at or below', grade: 'E' } },
  { carry: ['goods', 'price-per-kg'], telling: { atMostEvery: DAY, together: true } },
);

export const FEW_ORDERS = rule(
  { kind: 'unusual', ...asked('orders'), side: 'either', oneIn: 5000, zone: LONDON },
  { telling: { atMostEvery: 12 * HOUR } },
);

/** Of each region its phones are held against its desktops. */
export const PHONES_LEAD = rule(
  {
    kind: 'against',
    ...asked('orders'),
    other: { field: 'orders', sharing: { label: 'region', where: { label: 'device', is: 'desktop' } } },
    is: 'above',
    by: { by: 'amount', amount: quantity('5', null) },
    inclusive: false,
  },
  {
    only: [{ by: 'label', label: 'device', is: 'phone' }],
    hold: { for: 'readings', count: 2 },
    telling: { atMostEvery: DAY },
    weight: 'low',
  },
);

const TODAY = { make: 'sum', of: { this: 'day', zone: LONDON }, stepwise: false, grows: true } as const;

/** A day that goes well is told of as it comes to each of these. */
export const ORDERS_TODAY = rule(
  {
    kind: 'level',
    of: { ...asked('orders'), over: TODAY },
    limits: {
      is: 'above',
      limit: quantity('180', null),
      inclusive: false,
      further: [quantity('220', null), quantity('240', null)],
    },
  },
  { only: [{ by: 'label', label: 'region', is: 'south' }], name: 'More than 180 orders in a day', weight: 'low' },
);

const FORTNIGHT = { make: 'maximum', of: { last: 'readings', count: 14 }, stepwise: false, grows: true } as const;

export const VISITS_HIGHEST: Clause = {
  kind: 'level',
  of: { ...asked('visits'), over: FORTNIGHT },
  limits: above(quantity('7000', null)),
};

export const WARM_STORE = rule(
  {
    kind: 'crossing',
    of: asked('value'),
    limits: above(quantity('18.5', '°C')),
    margin: { by: 'amount', amount: quantity('0.5', '°C') },
  },
  {
    hold: { for: 'time', ms: HOUR },
    telling: { remindEvery: 6 * HOUR },
    tellsEnd: true,
    weight: 'high',
    only: [{ by: 'name', holds: 'temperature' }],
    note: 'Above this the honey darkens.',
  },
);

export const DOOR = rule(
  { kind: 'state', ...asked('value'), how: { becomes: { kind: 'flag', is: true } } },
  {
    only: [{ by: 'name', holds: 'door' }],
    name: 'Store door stands open',
    telling: { hours: { days: [1, 2, 3, 4, 5, 6, 7], from: 6 * 60, to: 22 * 60, zone: LONDON } },
  },
);

export const STORE_SILENT = rule(
  { kind: 'silence', ...asked('value'), how: { of: 'readings', ms: 2 * HOUR } },
  { weight: 'high' },
);

export const HIVE_LOSES = rule(
  {
    kind: 'move',
    ...asked('weight'),
    against: { base: 'extreme' },
    rise: null,
    fall: { by: 'amount', amount: quantity('2', 'kg') },
  },
  { name: 'A hive loses weight: a swarm, or robbers' },
);

const SIX_HOURS = { make: 'mean', of: { last: 'time', ms: DAY / 4 }, stepwise: false, grows: false } as const;

export const COLD_BROOD = rule(
  { kind: 'level', of: { ...asked('brood-temperature'), over: SIX_HOURS }, limits: below(quantity('33', '°C')) },
  { later: 'wait' },
);
