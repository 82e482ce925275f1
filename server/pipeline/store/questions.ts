import type { SnapshotId } from '#core/id';
import { questionsOf, type Question } from '#core/judge/questions';
import { describeQuestion } from '#core/tell/question';
import { moment, type Statement } from '../../db/base/pool';
import type { Notice } from '../order/notice';
import type { RunFacts } from '../facts';
import type { JudgedWatch } from './judged';

/** What a run asks of one watch. */
export interface Asked {
  judged: JudgedWatch;
  /** Asked now, and not before. */
  fresh: Question[];
  /** Asked before, and now again. */
  again: Question[];
  /** Keys of those that what was read has settled. */
  passed: string[];
  /** The keys that stay. */
  asks: string[];
}

const keyOf = ({ field, sameAs }: Pick<Question, 'field' | 'sameAs'>) => `${field} ${sameAs}`;

/** What a run asks of a watch: each question once, until it is answered or has passed. */
export function askedBy(judged: JudgedWatch): Asked {
  const { watch, outcome } = judged;
  const questions = questionsOf(outcome);
  const keys = new Set(questions.map(keyOf));
  const known = new Set(watch.asks);
  const read = new Set(outcome.good.map(({ field }) => field.key));
  const asked = new Set(questions.map(({ field }) => field));
  // A field that was read well, or is asked something else, asks no longer what it did.
  const passed = watch.asks.filter((key) => !keys.has(key) && (read.has(fieldIn(key)) || asked.has(fieldIn(key))));
  return {
    judged,
    fresh: questions.filter((question) => !known.has(keyOf(question))),
    again: questions.filter((question) => known.has(keyOf(question))),
    passed,
    asks: [
      ...watch.asks.filter((key) => !passed.includes(key)),
      ...questions.map(keyOf).filter((key) => !known.has(key)),
    ],
  };
}

const fieldIn = (key: string) => key.slice(0, key.indexOf(' '));

const ASK = `
INSERT INTO question (watch_id, field, identity, records, same_as, was, found, found_text, changes, frame, around,
  asked_at, seen_at, snapshot_id, snapshot_before)
SELECT watch, field, identity, records, same_as, nullif(was, 'null'), found, found_text, changes, nullif(frame, 'null'),
  around, $2, $2, $3, $4
FROM jsonb_to_recordset($1) AS q(watch int, field text, identity text, records int, same_as text, was jsonb,
  found jsonb, found_text text, changes jsonb, frame jsonb, around boolean)`;

const AGAIN = `
UPDATE question q SET seen_at = $2, found = n.found, found_text = n.found_text, records = n.records
FROM jsonb_to_recordset($1) AS n(watch int, field text, same_as text, found jsonb, found_text text, records int)
WHERE q.watch_id = n.watch AND q.field = n.field AND q.same_as = n.same_as AND q.answer IS NULL`;

const PASSED = `
UPDATE question q SET answer = 'passed', answered_at = $2
FROM jsonb_to_recordset($1) AS n(watch int, key text)
WHERE q.watch_id = n.watch AND q.field || ' ' || q.same_as = n.key AND q.answer IS NULL`;

/** Keeps what a run asks, and closes what it has settled. */
export function storeQuestions(
  facts: RunFacts,
  asked: Asked[],
  snapshotId: SnapshotId,
  before: SnapshotId | null,
): Statement[] {
  const of = (questions: (each: Asked) => Question[]) =>
    asked.flatMap((each) =>
      questions(each).map((question) => ({
        ...question,
        watch: each.judged.watch.id,
        same_as: question.sameAs,
        found: question.value,
        found_text: question.text,
      })),
    );
  const [fresh, again] = [of((each) => each.fresh), of((each) => each.again)];
  const passed = asked.flatMap((each) => each.passed.map((key) => ({ watch: each.judged.watch.id, key })));
  const at = moment(facts.startedAt);
  return [
    ...(fresh.length === 0 ? [] : [{ text: ASK, values: [JSON.stringify(fresh), at, snapshotId, before] }]),
    ...(again.length === 0 ? [] : [{ text: AGAIN, values: [JSON.stringify(again), at] }]),
    ...(passed.length === 0 ? [] : [{ text: PASSED, values: [JSON.stringify(passed), at] }]),
  ];
}

/** What there is to tell the owner of a watch: of several questions the first. */
export function questionNotice(
  { judged: { watch }, fresh }: Asked,
  facts: RunFacts,
): (Notice & { sameAs: string[] }) | null {
  const [first] = fresh;
  if (first === undefined) return null;
  const label = watch.definition.fields.find(({ key }) => key === first.field)?.label ?? first.field;
  const more = fresh.length > 1 ? ` ${fresh.length - 1} more ${fresh.length === 2 ? 'is' : 'are'} asked with it.` : '';
  return {
    watchId: watch.id,
    kind: 'question',
    cause: 'in question',
    sentence: `${describeQuestion(first, label)}${more}`,
    since: facts.startedAt,
    sameAs: fresh.map(({ sameAs }) => sameAs),
  };
}
