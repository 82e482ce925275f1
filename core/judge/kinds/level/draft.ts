import { fail, ok } from '../../../result';
import { isMeasure, type Measure, type Value } from '../../../value/value';
import type { JudgedWindow, Limits } from '../../asked';
import type { DraftBase, Said, Sayings } from '../../draft/base';
import { counted, figured, measured, typedFigure, typedUnit, type WindowDraft } from '../../draft/figures';
import { zoneOf, type SaidIn } from '../../draft/said-in';
import { spanDraftOf, spanned } from '../../draft/span';
import type { LimitClause } from './judge';

const VERBS = ['falls below', 'rises above', 'is below', 'is above', 'is between', 'is outside'] as const;

/** A limit, or two, while it is being said. */
export interface LimitDraft extends DraftBase {
  verb: (typeof VERBS)[number];
  /** The limit, or the lower of two. */
  limit: string;
  high: string;
  /** Whether the limit itself counts. */
  inclusive: boolean;
  /** How far a value has to be back, before it counts as left; empty for no margin. */
  margin: string;
  /** Whether the margin is percent. */
  percent: boolean;
  over: WindowDraft | null;
  /** Limits beyond it at which it is told again, as typed, apart by semicolons. */
  further?: string | undefined;
  /** What figures are counted in, where records of several units are read; else as the present value is. */
  unit?: string;
  /** Of a kept one, the zone whose clock it goes by; else the reader's. */
  zone?: string;
}

export const limitSayings: Sayings<LimitDraft, LimitClause> = {
  verbs: VERBS,
  blank: { limit: '', high: '', inclusive: false, margin: '', percent: false, over: null },
  besides: ['further', 'unit', 'zone'],
  toClause: (draft, said) => {
    const limits = limitsOf(draft, said);
    if (!limits.ok) return limits;
    const over = windowOf(draft, said);
    if (!over.ok) return over;
    const margin = draft.margin.trim() === '' ? ok(undefined) : figured(draft, draft.margin, said);
    if (!margin.ok) return margin;
    return ok({
      kind: draft.verb === 'falls below' || draft.verb === 'rises above' ? 'crossing' : 'level',
      of: { asked: { field: draft.field }, ...(over.value === undefined ? {} : { over: over.value }) },
      limits: limits.value,
      ...(margin.value === undefined ? {} : { margin: margin.value }),
    });
  },
};

function limitsOf(draft: LimitDraft, said: SaidIn): Said<Limits> {
  const limit = measured(draft, draft.limit, said);
  if (!limit.ok) return limit;
  const { verb, inclusive } = draft;
  if (verb !== 'is between' && verb !== 'is outside') {
    const further = furtherOf(draft, said);
    if (!further.ok) return further;
    const is = verb === 'falls below' || verb === 'is below' ? 'below' : 'above';
    return ok({ is, limit: limit.value, inclusive, ...(further.value.length === 0 ? {} : { further: further.value }) });
  }
  const high = measured(draft, draft.high, said, 'the upper limit');
  return high.ok
    ? ok({ is: verb === 'is between' ? 'between' : 'outside', low: limit.value, high: high.value, inclusive })
    : high;
}

function furtherOf(draft: LimitDraft, said: SaidIn): Said<Measure[]> {
  const limits: Measure[] = [];
  for (const text of (draft.further ?? '').split(';').filter((each) => each.trim() !== '')) {
    const limit = measured(draft, text, said, 'the further limits');
    if (!limit.ok) return limit;
    limits.push(limit.value);
  }
  return ok(limits);
}

function windowOf(draft: LimitDraft, said: SaidIn): Said<JudgedWindow | undefined> {
  const { over, field } = draft;
  if (over === null) return ok(undefined);
  const stepwise = said.fields.find(({ key }) => key === field)?.mode === 'stepwise';
  const made = { make: over.make, stepwise, grows: over.grows ?? !isNegative(said.present[field]) };
  const { unit } = over;
  if (unit === 'this hour' || unit === 'this day' || unit === 'this week' || unit === 'this month') {
    return ok({ ...made, of: { this: unit.slice('this '.length) as 'hour', zone: zoneOf(draft, said) } });
  }
  if (over.make === 'pace') return fail('A pace needs a stretch of the calendar: this hour, day, week or month.');
  if (unit === 'reading')
    return counted(over.count, 'readings', (count) => ({ ...made, of: { last: 'readings', count } }));
  return spanned({ count: over.count, unit }, (ms) => ({ ...made, of: { last: 'time', ms } }));
}

const isNegative = (value: Value | undefined) =>
  value !== undefined && isMeasure(value) && value.amount.startsWith('-');

/** A kept limit as it would be said; null of a crossing of two limits, which nobody can say. */
export function limitDraftOf({
  kind,
  of: { over },
  limits,
  margin,
}: LimitClause): Omit<LimitDraft, keyof DraftBase> | null {
  if (kind === 'crossing' && (limits.is === 'between' || limits.is === 'outside')) return null;
  const verb =
    kind === 'crossing' ? (limits.is === 'below' ? 'falls below' : 'rises above') : (`is ${limits.is}` as const);
  const said =
    'limit' in limits
      ? {
          limit: limits.limit.amount,
          ...typedUnit(limits.limit),
          ...(limits.further === undefined ? {} : { further: limits.further.map(({ amount }) => amount).join('; ') }),
        }
      : { limit: limits.low.amount, high: limits.high.amount, ...typedUnit(limits.low) };
  const back = margin === undefined ? null : typedFigure(margin);
  return {
    ...limitSayings.blank,
    verb,
    ...said,
    inclusive: limits.inclusive,
    ...(back === null ? {} : { margin: back.amount, percent: back.percent }),
    ...(over === undefined ? {} : { over: windowDraftOf(over) }),
    ...(over !== undefined && 'this' in over.of ? { zone: over.of.zone } : {}),
  };
}

function windowDraftOf({ make, of, grows }: JudgedWindow): WindowDraft {
  if ('this' in of) return { make, count: '', unit: `this ${of.this}`, grows };
  return of.last === 'readings'
    ? { make, count: String(of.count), unit: 'reading', grows }
    : { make, ...spanDraftOf(of.ms), grows };
}
