import { foldText } from '../value/parse';
import { sameValue, type Measure, type Value } from '../value/value';
import { runsFor, type History } from './backtest';
import { clausesOf, type Clause, type Limits } from './clause';
import type { RuleDefinition } from './rule';
import { extent } from './tune';

/** Why a rule could not have been met by anything that was read so far. */
export type Never =
  | { code: 'no records' }
  /** A limit beyond all values so far: the lowest of them, or the highest. */
  | { code: 'limit never reached'; field: string; side: 'lowest' | 'highest'; amount: number; like: Measure }
  | { code: 'never counted so'; field: string; like: Measure }
  | { code: 'never said'; field: string; words: string };

/** What of a rule nothing that was read so far could have met, in the order of its clauses; empty where something could, or nothing was read. */
export function neverMet(rule: RuleDefinition, histories: readonly History[]): Never[] {
  const own = runsFor(rule, histories, 0);
  if (histories.length > 0 && own.length === 0) return [{ code: 'no records' }];
  return clausesOf(rule.when).flatMap((clause) => ofClause(clause, own));
}

function ofClause(clause: Clause, histories: readonly History[]): Never[] {
  if (clause.kind === 'level' || clause.kind === 'crossing')
    return clause.of.over === undefined ? ofLimits(clause.of.asked.field, clause.limits, histories) : [];
  if (clause.kind === 'state' && clause.how !== 'any move') return ofStates(clause, clause.how, histories);
  if (clause.kind === 'text' && 'phrase' in clause.how) return ofPhrase(clause.asked.field, clause.how, histories);
  return [];
}

const valuesOf = (field: string, histories: readonly History[]): Value[] =>
  histories.flatMap(({ fields }) => (fields[field]?.readings ?? []).map(({ value }) => value));

function ofLimits(field: string, limits: Limits, histories: readonly History[]): Never[] {
  if (valuesOf(field, histories).length === 0) return [];
  const like = 'limit' in limits ? limits.limit : limits.low;
  const found = extent(histories, field, like);
  if (found === null) return [{ code: 'never counted so', field, like }];
  const [least, most] = found;
  const limit = Number(like.amount);
  if (limits.is === 'below' && (limits.inclusive ? least > limit : least >= limit))
    return [{ code: 'limit never reached', field, side: 'lowest', amount: least, like }];
  if (limits.is === 'above' && (limits.inclusive ? most < limit : most <= limit))
    return [{ code: 'limit never reached', field, side: 'highest', amount: most, like }];
  return [];
}

type StateClause = Extract<Clause, { kind: 'state' }>;

function ofStates({ asked: { field } }: StateClause, how: Exclude<StateClause['how'], string>, histories: readonly History[]): Never[] {
  const wanted = 'is' in how ? how.is : 'becomes' in how ? how.becomes : 'leaves' in how ? how.leaves : how.to;
  const seen = valuesOf(field, histories);
  const words = 'state' in wanted ? wanted.state : 'text' in wanted ? wanted.text : '';
  return seen.length === 0 || words === '' || seen.some((value) => sameValue(value, wanted)) ? [] : [{ code: 'never said', field, words }];
}

function ofPhrase(field: string, { phrase, is }: { phrase: string; is: string }, histories: readonly History[]): Never[] {
  const seen = valuesOf(field, histories);
  const wanted = foldText(phrase).toLowerCase();
  const has = seen.some((value) => value.kind === 'text' && foldText(value.text).toLowerCase().includes(wanted));
  return seen.length === 0 || has || is === 'not there' ? [] : [{ code: 'never said', field, words: phrase }];
}
