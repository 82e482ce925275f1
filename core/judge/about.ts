import { compareReadings } from '../compare/compare';
import type { Field } from '../read/definition';
import type { Value } from '../value/value';
import { isOwn } from './asked';
import { asksIn, clausesOf } from './clause';
import type { Finding } from './observation';
import type { About, GoodReading, KnownSeries, Verdict } from './known';
import { ownFields, type RuleDefinition } from './rule';

/** What is known of a record at a moment: what was read of it now, and how its series stand. */
export interface Standing {
  fields: ReadonlyMap<string, Field>;
  read: ReadonlyMap<string, GoodReading>;
  series: (field: string) => KnownSeries | null;
}

/**
 * What a verdict is about: the field of a clause that is met, or else the first that the rule asks and that has a
 * value.
 */
export function aboutOf(rule: RuleDefinition, findings: readonly (Finding | null)[], standing: Standing): About | null {
  const met = clausesOf(rule.when).flatMap((clause, at) => (findings[at]?.is === 'met' ? asksIn(clause) : []));
  const named = met.filter(isOwn).map(({ field }) => field);
  for (const key of [...named, ...ownFields(rule), ...standing.fields.keys()]) {
    const about = fieldOf(key, standing);
    if (about !== null) return about;
  }
  return null;
}

function fieldOf(key: string, { fields, read, series }: Standing): About | null {
  const field = fields.get(key);
  if (field === undefined) return null;
  const reading = read.get(key);
  if (reading !== undefined) return ofReading(reading);
  const known = series(key);
  return known === null ? null : ofSeries(field, known);
}

function ofReading(reading: GoodReading): About {
  const { field, value, known, at } = reading;
  return {
    field,
    value,
    previous: known?.value ?? null,
    at,
    lookedBefore: known?.lastGoodAt ?? null,
    reading,
    seriesId: known?.id ?? null,
    // Of thousands that are judged few are told: how far it moved is worked out for those.
    get change() {
      return reading.change ?? (known === null ? null : compareReadings(known.value, value, field.polarity));
    },
  };
}

const ofSeries = (field: Field, { value, id, openSince, lastGoodAt }: KnownSeries): About => ({
  field,
  value,
  previous: null,
  change: null,
  at: openSince,
  lookedBefore: lastGoodAt,
  reading: null,
  seriesId: id,
});

/** The values of the fields that a rule carries along, as far as they are known. */
export function carriedOf({ carry = [] }: RuleDefinition, standing: Standing): Verdict['carried'] {
  return carry.flatMap((key): { field: Field; value: Value }[] => {
    const field = standing.fields.get(key);
    const value = standing.read.get(key)?.value ?? standing.series(key)?.value;
    return field === undefined || value === undefined ? [] : [{ field, value }];
  });
}
