import { recordChange } from '../compare/compare';
import { isAllRecords } from '../read/all-records';
import { arePoints, canVanish } from '../read/definition';
import { asksOf } from '../read/formula';
import type { GuardCause } from '../read/guard';
import type { ReadProblem } from '../read/problem';
import type { ReadRecord, WatchReading } from '../read/reading';
import type { Result } from '../result';
import type { Instant } from '../when/interval';
import { RuleJudging } from './judging';
import { matters } from './remembered';
import { isNotifying } from './subject';
import type { KnownRecord, KnownWatch, Verdict, WatchOutcome } from './known';
import { inOrder } from './place';
import { Placing } from './placing';
import { countsRuns } from './rule';

/** What was read for a watch: its records, or why there are none, and what the page seems to be. */
export interface WatchRead {
  reading: Result<WatchReading, ReadProblem>;
  seems: GuardCause | null;
}

/**
 * Places in time, compares and judges what was read for one watch at `now`. Pure: the same given, the same comes out.
 */
export function judgeWatch(watch: KnownWatch, { reading, seems }: WatchRead, now: Instant): WatchOutcome {
  const outcome = nothingYet();
  const judging = new RuleJudging(watch, now);
  if (!reading.ok) return { ...outcome, failure: reading.error, verdicts: judging.fails() };
  const placing = new Placing(watch, outcome, now);
  const { appeared, vanished } = movesOf(watch, reading.value);
  const moved = { came: identitiesOf(appeared), went: identitiesOf(vanished) };
  for (const round of roundsOf(inOrder(reading.value.records))) {
    const placed = round.map((record) => placing.take(record));
    judging.hear(placed, placing.series, moved);
    placing.moveOn(placed.flatMap(({ good }) => good));
  }
  for (const { record } of vanished) if (record !== null) judging.loses(record);
  return {
    ...outcome,
    verdicts: judging.verdicts,
    choices: [...judging.choices].map(([{ id }, choice]) => ({ rule: id, choice })),
    problems: reading.value.problems,
    offered: reading.value.offered,
    seems: outcome.bad.length > 0 ? seems : null,
    moves: [...appeared, ...vanished],
  };
}

const nothingYet = (): WatchOutcome => ({
  good: [],
  bad: [],
  verdicts: [],
  choices: [],
  failure: null,
  seems: null,
  problems: [],
  records: [],
  moves: [],
  offered: [],
  lost: {},
});

/**
 * What was read at one moment is judged together; points of a source's own times, and two of one record, one after
 * another.
 */
function roundsOf(records: ReadRecord[]): ReadRecord[][] {
  const rounds: ReadRecord[][] = [];
  let open = { at: null as Instant | null, seen: new Set<string>(), records: [] as ReadRecord[] };
  for (const record of records) {
    if (rounds.length === 0 || record.marks.at !== open.at || open.seen.has(record.identity)) {
      open = { at: record.marks.at, seen: new Set(), records: [] };
      rounds.push(open.records);
    }
    open.seen.add(record.identity);
    open.records.push(record);
  }
  return rounds;
}

/** Records that came or went since the last good read under this version; of a feed only those that came. */
function movesOf(
  { definition, readVersion, version, records, missing }: KnownWatch,
  reading: WatchReading,
): Record<'appeared' | 'vanished', Moves> {
  // That a page as a whole is there is no move; a document as a whole is a list of one, which can vanish.
  if (arePoints(definition.records) || definition.records.from === 'page' || readVersion !== version)
    return { appeared: [], vanished: [] };
  const appeared = reading.records.flatMap(({ identity, name }) => {
    if (isAllRecords({ identity })) return [];
    const record = records.get(identity) ?? null;
    return record === null || record.goneSince !== null
      ? [{ record, identity, change: recordChange('appeared', name) }]
      : [];
  });
  if (!canVanish(definition.records) || reading.problems.length > 0) return { appeared, vanished: [] };
  const gone = missing.filter((record) => !isAllRecords(record));
  return {
    appeared,
    vanished: gone.map((record) => ({ record, identity: record.identity, change: vanishing(record) })),
  };
}

type Moves = WatchOutcome['moves'];

const identitiesOf = (moves: Moves): ReadonlySet<string> => new Set(moves.map(({ identity }) => identity));

const vanishing = ({ name, identity }: KnownRecord) => recordChange('vanished', name ?? identity);

/** True when even a body that brings nothing new has to be read: time itself moves what it means. */
export function alwaysRead({ definition, rules }: Pick<KnownWatch, 'definition' | 'rules'>): boolean {
  if (arePoints(definition.records)) return true;
  if (rules.some((rule) => countsRuns(rule.definition))) return true;
  return (
    definition.fields.some(({ type }) => type.kind === 'number' && type.increase === true) ||
    asksOf(definition).length > 0
  );
}

/** How a watch's part of a run came out. Of many records some may fail; of a page every field counts. */
export function outcomeOf(
  { definition, lastGoodAt }: KnownWatch,
  result: WatchOutcome,
): 'first' | 'same' | 'changed' | 'failed' {
  const single = definition.records.from === 'page';
  if (result.failure !== null || (result.bad.length > 0 && (single || result.good.length === 0))) return 'failed';
  if (lastGoodAt === null || (result.good.length > 0 && result.good.every((each) => each.known === null)))
    return 'first';
  return result.moves.length > 0 || result.good.some((each) => each.opens) ? 'changed' : 'same';
}

/** True when a verdict's turn moved what the rule remembers, or has something to tell. */
export const hasMoved = ({ rule, before, turn }: Verdict): boolean =>
  turn.told.length > 0 || matters(rule.definition, before, turn.memory);

/** True of a verdict that tells someone. */
export const isTaken = ({ turn }: Verdict): boolean => turn.told.some(isNotifying);
