import { describe, expect, it } from 'vitest';
import { money } from '../value/parse';
import type { Value } from '../value/value';
import { HOUR, MINUTE } from '../when/interval';
import type { Condition } from './clause';
import type { RuleMemory } from './memory';
import { textDigest } from './text-digest';
import type { RuleDefinition } from './rule';
import {
  closeSubject,
  freshSubject,
  hearSubject,
  nextOfSubject,
  openSubject,
  tellSubject,
  wakeSubject,
  type Turn,
} from './subject';

const SITUATION = { intervalMs: HOUR, savedAt: 0 };
const BELOW: Condition = {
  kind: 'level',
  of: { asked: { field: 'v' } },
  limits: { is: 'below', limit: money('20.00', 'GBP'), inclusive: false },
};
const rule = (more: Partial<RuleDefinition> = {}, when: Condition = BELOW): RuleDefinition => ({
  when,
  whenAlreadyMet: 'raise',
  ...more,
});

/** Plays hourly readings, and after each what the clock brings until the next. */
function play(
  definition: RuleDefinition,
  values: Value[],
  start: RuleMemory = freshSubject(definition, SITUATION),
): { turns: Turn[]; memory: RuleMemory } {
  let memory = start;
  const turns: Turn[] = [];
  const take = (made: Turn[]) => {
    turns.push(...made);
    memory = JSON.parse(JSON.stringify(made.at(-1)?.memory ?? memory)) as RuleMemory;
  };
  values.forEach((value, hour) => {
    const at = hour * HOUR;
    take(
      hearSubject(
        definition,
        memory,
        { of: 'run', at, moment: at, own: true, read: new Map([['v', { value, at }]]) },
        SITUATION,
      ),
    );
    for (
      let due = nextOfSubject(definition, memory, SITUATION);
      due !== null && due < at + HOUR;
      due = nextOfSubject(definition, memory, SITUATION)
    )
      take(wakeSubject(definition, memory, due, SITUATION));
  });
  return { turns, memory };
}

const pounds = (...amounts: string[]) => amounts.map((amount) => money(amount, 'GBP'));
const toldIn = ({ turns }: { turns: Turn[] }) => turns.flatMap(({ told }) => told.map(({ what }) => what));

describe('what is told of a rule on a record', () => {
  it('is that it began, and that it is over where she asks for that', () => {
    expect(toldIn(play(rule(), pounds('25', '19', '25')))).toEqual(['alert']);
    expect(toldIn(play(rule({ tellsEnd: true }), pounds('25', '19', '25')))).toEqual(['alert', 'over']);
  });

  it('is no end of what nobody was told the beginning of', () => {
    // At night it is raised and over again before its hours begin.
    const hours = { days: [1, 2, 3, 4, 5, 6, 7], from: 12 * 60, to: 13 * 60, zone: 'UTC' };
    expect(toldIn(play(rule({ tellsEnd: true, telling: { hours } }), pounds('25', '19', '25', '25')))).toEqual([
      'kept',
    ]);
  });

  it('is at once that it cannot be judged any more, whatever hours and gates say', () => {
    const telling = { atMostEvery: 50 * HOUR, hours: { days: [1], from: 0, to: 1, zone: 'UTC' } };
    const turns = play(rule({ telling }), [...pounds('25', '19'), money('19', 'EUR')]);
    expect(toldIn(turns)).toContain('cannot be judged');
  });

  it('goes on by the clock: reminders until it is taken on', () => {
    const definition = rule({ telling: { remindEvery: 90 * MINUTE } });
    const began = play(definition, pounds('25', '19', '19', '19'));
    expect(toldIn(began)).toEqual(['alert', 'reminder']);
    const taken = tellSubject(definition, began.memory, { is: 'taken on' }, 3 * HOUR + 30 * MINUTE);
    expect(nextOfSubject(definition, taken.at(-1)?.memory ?? began.memory, SITUATION)).toBeNull();
  });

  it('is nothing of an episode that was closed by hand, until its condition was left', () => {
    const definition = rule();
    const { memory } = play(definition, pounds('25', '19'));
    const closed = closeSubject(definition, memory, 90 * MINUTE, SITUATION).at(-1);
    expect(closed?.effects).toEqual([{ do: 'close', because: 'by hand' }]);
    const hear = (amount: string, at: number, known: RuleMemory) =>
      hearSubject(
        definition,
        known,
        { of: 'run', at, moment: at, own: true, read: new Map([['v', { value: money(amount, 'GBP'), at }]]) },
        SITUATION,
      );
    const still = hear('18', 2 * HOUR, closed?.memory ?? memory);
    expect(still.flatMap(({ told }) => told)).toEqual([]);
    const left = hear('25', 3 * HOUR, still.at(-1)?.memory ?? memory);
    expect(hear('18', 4 * HOUR, left.at(-1)?.memory ?? memory).flatMap(({ told }) => told)).toMatchObject([
      { what: 'alert' },
    ]);
  });
});

describe('a long text', () => {
  const long = (end: string): Value => ({ kind: 'text', text: `${'the same '.repeat(100_000)}${end}` });
  const changes = rule({}, { kind: 'change', asked: { field: 'v' } });

  it('is remembered by its beginning and a mark, and any change of it is still seen', () => {
    const { turns, memory } = play(changes, [long('a'), long('a'), long('b')]);
    expect(turns.map(({ told }) => told.length)).toEqual([0, 0, 1]);
    expect(JSON.stringify(memory).length).toBeLessThan(2_000);
  });

  it('is pressed once and for all', () => {
    expect(textDigest(textDigest(long('a')))).toEqual(textDigest(long('a')));
    expect(textDigest(long('a'))).not.toEqual(textDigest(long('b')));
    expect(textDigest({ kind: 'text', text: 'short' })).toEqual({ kind: 'text', text: 'short' });
  });
});

describe('an episode that is opened by hand', () => {
  const opened = () => {
    const { memory } = play(rule(), [money('25.00', 'GBP')]);
    return openSubject(rule(), memory, HOUR / 2, SITUATION).at(-1)?.memory ?? memory;
  };
  const hear = (value: Value) =>
    hearSubject(
      rule(),
      opened(),
      { of: 'run', at: HOUR, moment: HOUR, own: true, read: new Map([['v', { value, at: HOUR }]]) },
      SITUATION,
    );

  it('stays open where its condition is not met', () => {
    expect(hear(money('25.00', 'GBP')).at(-1)).toMatchObject({ before: 'raised', after: 'raised', effects: [] });
  });

  it('closes, and says so, where its values are counted in something else', () => {
    const turn = hear(money('25.00', 'EUR')).at(-1);
    expect([turn?.after, turn?.effects, turn?.told.map(({ what }) => what)]).toEqual([
      'undecided',
      [
        { do: 'close', because: 'unlike' },
        { do: 'say', what: 'cannot be judged' },
      ],
      ['cannot be judged'],
    ]);
  });
});
