import { namesOf } from '#core/judge/words';
import { describeCondition } from '#core/judge/describe';
import { BLANK_RULE, ruleDraftOf, type RuleDraft } from '#core/plan/rule-draft';
import { blankClause, withSaid } from '#core/judge/draft/clause';
import type { ClauseDraft } from '#core/judge/kinds/table';
import { isAllRecords, withNumber } from '#core/read/all-records';
import { isMeasure, unitOf } from '#core/value/value';
import type { RecordNow } from '#server/db/reading/records';
import type { WatchNow } from '#server/db/watch/views/watch-now';

/**
 * A rule that opens filled in, from a record, a change or a point of a chart: `?field=price&record=…&limit=24.00`; or
 * from another rule, or an episode of it: `?copy=7&record=…&limit=19.00`. `ends` is the house's last day of new rules.
 */
export function draftFrom(watch: WatchNow, records: RecordNow[], asked: URLSearchParams, ends: string): RuleDraft {
  const copied = copyOf(watch, asked.get('copy'));
  if (copied !== null)
    return narrowed(
      copied,
      records.length < 2 ? undefined : records.find(({ id }) => String(id) === asked.get('record')),
      asked.get('limit'),
    );
  const field =
    withNumber(watch.definition).find(({ key }) => key === asked.get('field')) ?? watch.definition.fields[0];
  const record = records.find(({ id }) => String(id) === asked.get('record'));
  const audiences = watch.rules.at(-1)?.audiences ?? [];
  if (field === undefined || !asked.has('field')) return { ...BLANK_RULE, audiences, ends };
  const value = (record?.series ?? watch.series).find((series) => series.field === field.key)?.value;
  const only: RuleDraft['only'] =
    record === undefined || isAllRecords(record) || records.length < 2
      ? []
      : [{ by: 'identity', in: [record.identity] }];
  return { ...BLANK_RULE, audiences, ends, only, clauses: [clauseFor(field.key, value, asked.get('limit'))] };
}

/** A copy of a rule of the watch, which says what it was made from. */
function copyOf(watch: WatchNow, asked: string | null): RuleDraft | null {
  const rule = watch.rules.find(({ id }) => String(id) === asked);
  if (rule === undefined) return null;
  const labelOf = (key: string) => watch.definition.fields.find((field) => field.key === key)?.label ?? key;
  const from = rule.definition.name ?? describeCondition(rule.definition.when, namesOf(labelOf, 'en'));
  return {
    ...ruleDraftOf(rule),
    id: null,
    name: '',
    from: { kind: 'rule', id: rule.id, name: from.slice(0, LONGEST_NAME) },
  };
}

/** A copy for one record alone, and with its first limit at another amount, where those are named. */
function narrowed(copy: RuleDraft, record: RecordNow | undefined, limit: string | null): RuleDraft {
  const [first, ...others] = copy.clauses;
  const clauses =
    first === undefined || !('limit' in first) || first.limit === '' || limit === null
      ? copy.clauses
      : [withSaid(first, { limit: limit.slice(0, LONGEST_LIMIT) }), ...others];
  return {
    ...copy,
    clauses,
    only: record === undefined || isAllRecords(record) ? copy.only : [{ by: 'identity', in: [record.identity] }],
  };
}

const LONGEST_NAME = 200;
const LONGEST_LIMIT = 40;

function clauseFor(
  field: string,
  value: WatchNow['series'][number]['value'] | undefined,
  limit: string | null,
): ClauseDraft {
  if (value === undefined || !isMeasure(value)) return blankClause(field, 'changes');
  return {
    ...blankClause(field, 'falls below'),
    limit: (limit ?? value.amount).slice(0, LONGEST_LIMIT),
    unit: unitOf(value) ?? '',
  };
}
