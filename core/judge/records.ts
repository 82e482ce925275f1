import { DateTime } from 'luxon';
import { compareDecimals, decimal } from '../value/decimal';
import { alike, isMeasure, wordsOf, type Measure, type Value } from '../value/value';
import type { Instant } from '../when/interval';
import type { KnownItem } from './offers';
import { isRanking, type Ranking, type RecordTest } from './rule';

/** What is known of a record, as far as what a rule runs for asks it. */
export interface Filtered {
  identity: string;
  name: string;
  labels: Readonly<Record<string, string>>;
  fieldOf?: (field: string) => Value | undefined;
  item?: KnownItem['item'] | undefined;
}

/** The records that were chosen as the highest or lowest, and when. */
export interface Choice {
  at: Instant;
  in: string[];
}

/** Whether a rule runs for a record: every test lets it through, and where some are chosen it is one of them. */
export function lets(only: readonly RecordTest[] = [], record: Filtered, choice: Choice | null = null): boolean {
  return only.every((test) =>
    isRanking(test) ? (choice?.in.includes(record.identity) ?? false) : passes(test, record),
  );
}

function passes(test: Exclude<RecordTest, Ranking>, { identity, name, labels, fieldOf, item }: Filtered): boolean {
  switch (test.by) {
    case 'identity':
      return test.in.includes(identity);
    case 'label':
      return labels[test.label] === test.is;
    case 'name':
      return name.toLowerCase().includes(test.holds.toLowerCase());
    case 'field':
      return says(fieldOf?.(test.field), test.is);
    case 'item':
      return item !== undefined && item[test.property].toLowerCase() === test.is.toLowerCase();
  }
}

/** Whether a value says what was typed: a number is the same however it is written, words are whatever their case. */
function says(value: Value | undefined, typed: string): boolean {
  if (value === undefined) return false;
  if (!isMeasure(value)) return wordsOf(value)?.trim().toLowerCase() === typed.trim().toLowerCase();
  const amount = decimal(typed.trim());
  return amount !== null && compareDecimals(value.amount, amount) === 0;
}

/**
 * The records that are the highest or lowest now, of those that the other tests let through; what was chosen before
 * stands until its day, week or month is over, and until then nothing is asked of them. Null where a rule chooses none,
 * or no value is known to choose by.
 */
export function choiceOf(
  only: readonly RecordTest[] = [],
  recordsNow: () => readonly Filtered[],
  before: Choice | null,
  now: Instant,
): Choice | null {
  const ranking = only.find(isRanking);
  if (ranking === undefined) return null;
  if (before !== null && stands(ranking, before.at, now)) return before;
  const others = only.filter((test) => !isRanking(test));
  const found = recordsNow().flatMap((record): [string, Measure][] => {
    const value = lets(others, record) ? record.fieldOf?.(ranking.field) : undefined;
    return value !== undefined && isMeasure(value) ? [[record.identity, value]] : [];
  });
  const [first] = found;
  if (first === undefined) return before;
  const side = ranking.by === 'highest' ? -1 : 1;
  const ranked = found
    .filter(([, value]) => alike(value, first[1]))
    .sort(([one, a], [other, b]) => side * compareDecimals(a.amount, b.amount) || (one < other ? -1 : 1));
  return { at: now, in: ranked.slice(0, ranking.count).map(([identity]) => identity) };
}

function stands({ anew, zone }: Ranking, chosen: Instant, now: Instant): boolean {
  if (anew === 'never') return true;
  const begins = (at: Instant) => DateTime.fromMillis(at, { zone }).startOf(anew).toMillis();
  return begins(chosen) === begins(now);
}
