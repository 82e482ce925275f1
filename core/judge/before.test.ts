import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { amount, play, type Look } from '../../tests/support/rule-play';
import type { Measure } from '../value/value';
import { DAY, HOUR, MINUTE, type Instant } from '../when/interval';
import { atWallClock, sameTimeBefore } from '../when/wall-clock';
import { DateTime } from 'luxon';
import type { Rule } from './engine';
import { tries } from '#tests/support/search';

const ZONE = 'Europe/London';
const on = (text: string) => Date.parse(text);
type Unit = 'day' | 'week' | 'month';

describe('the same time before', () => {
  it.each<[string, Unit, string, string]>([
    ['on a plain day', 'day', '2026-11-03T09:30Z', '2026-11-02T09:30Z'],
    ['a week', 'week', '2026-11-10T09:30Z', '2026-11-03T09:30Z'],
    ['over the clock put back', 'day', '2026-10-26T09:30Z', '2026-10-25T09:30Z'],
    ['and onto summer time', 'week', '2026-10-26T09:30Z', '2026-10-19T08:30Z'],
    ['at a time that there was twice: the first', 'day', '2026-10-26T01:30Z', '2026-10-25T00:30Z'],
    ['at a time that there was not: the first moment after the gap', 'day', '2026-03-30T00:30Z', '2026-03-29T01:00Z'],
    ['in a shorter month: its last day', 'month', '2026-03-31T09:30+01:00', '2026-02-28T09:30Z'],
  ])('%s', (_said, by, at, expected) => {
    expect(new Date(sameTimeBefore(on(at), by, ZONE)).toISOString()).toBe(new Date(on(expected)).toISOString());
  });

  it('is to the second', () =>
    expect(sameTimeBefore(on('2026-11-03T09:30:15.250Z'), 'day', ZONE)).toBe(on('2026-11-02T09:30:15.250Z')));
  it('knows odd zones', () => {
    // Lord Howe turns its clocks by half an hour.
    const date = DateTime.fromISO('2026-10-04', { zone: 'Australia/Lord_Howe' });
    expect(new Date(atWallClock(date, { hour: 2, minute: 10 })).toISOString()).toBe('2026-10-03T15:30:00.000Z');
  });
});

const GRID = 10 * MINUTE;
const clock = new Intl.DateTimeFormat('en-GB', { timeZone: ZONE, dateStyle: 'short', timeStyle: 'short' });

/** Every moment of a grid, by what the clock on the wall shows then. */
function byWall(from: Instant, to: Instant): Map<string, Instant> {
  const first = new Map<string, Instant>();
  for (let at = from; at <= to; at += GRID) if (!first.has(clock.format(at))) first.set(clock.format(at), at);
  return first;
}

/** The date of some days before, in the words of the clock; of a month the last day that there is. */
function dateBefore(said: string, by: Unit): string {
  const [day = 0, month = 0, year = 0] = (said.split(', ')[0] ?? '').split('/').map(Number);
  const date =
    by === 'month'
      ? new Date(Date.UTC(year, month - 2, 1))
      : new Date(Date.UTC(year, month - 1, day - (by === 'day' ? 1 : 7)));
  if (by === 'month') date.setUTCDate(Math.min(day, new Date(Date.UTC(year, month - 1, 0)).getUTCDate()));
  return `${String(date.getUTCDate()).padStart(2, '0')}/${String(date.getUTCMonth() + 1).padStart(2, '0')}/${date.getUTCFullYear()}, ${said.split(', ')[1]}`;
}

const STARTS: [Unit, Instant][] = [
  ['day', on('2026-10-24T00:00Z')],
  ['day', on('2026-03-28T00:00Z')],
  ['week', on('2026-10-19T00:00Z')],
  ['month', on('2026-02-26T00:00Z')],
];

describe('a value held against the one at the same time before', () => {
  it.each(STARTS)('is raised and left when a walk over time says so: a %s, from %d', (by, start) => {
    const [most, span] = [by === 'day' ? 3 * DAY : by === 'week' ? 10 * DAY : 36 * DAY, by === 'month' ? 500 : 60];
    const wall = byWall(start - 32 * DAY, start + most);
    const looks = fc.array(
      fc.record({
        gap: fc.integer({ min: 1, max: span }),
        value: fc.integer({ min: 0, max: 4 }),
        absent: fc.integer({ min: 0, max: 9 }),
      }),
      { minLength: 2, maxLength: 30 },
    );
    fc.assert(
      fc.property(looks, (given) => {
        let at = start;
        const seen = given.flatMap(({ gap, value, absent }): Look[] => {
          at += gap * GRID;
          return at > start + most
            ? []
            : [{ at, read: { value: absent === 0 ? { kind: 'absent' } : amount(String(value)) } }];
        });
        const end = start + most;
        const figure = { by: 'amount', amount: amount('2') } as const;
        const rule: Rule = {
          when: { kind: 'before', asked: { field: 'value' }, by, zone: ZONE, rise: figure, fall: figure },
          whenAlreadyMet: 'raise',
        };
        const marks = play(rule, seen, { intervalMs: HOUR, savedAt: start }, end).steps.flatMap((step) =>
          step.effects.flatMap((effect) =>
            effect.do === 'open' || effect.do === 'close' ? [`${effect.do} ${new Date(step.at).toISOString()}`] : [],
          ),
        );
        expect(marks).toEqual(walked(by, seen, start, end, wall));
      }),
      { numRuns: tries(by === 'month' ? 10 : 30) },
    );
  });
});

/** Looks at every moment of the grid what stood there at the same time before, by the words of the clock alone. */
function walked(by: Unit, seen: Look[], start: Instant, end: Instant, wall: Map<string, Instant>): string[] {
  const marks: string[] = [];
  let raised = false;
  const inForce = (at: Instant) => seen.filter((look) => look.at <= at).at(-1)?.read?.value;
  for (let at = start; at <= end; at += GRID) {
    let said = dateBefore(clock.format(at), by);
    // A time that there was not: the first after the gap.
    for (let more = 0; !wall.has(said) && more < 12; more += 1) said = later(said);
    const [now, then] = [inForce(at), inForce(wall.get(said) ?? 0)];
    if (now === undefined || then === undefined || now.kind === 'absent' || then.kind === 'absent') continue;
    const met = Math.abs(Number((now as Measure).amount) - Number((then as Measure).amount)) >= 2;
    if (met !== raised) marks.push(`${met ? 'open' : 'close'} ${new Date(at).toISOString()}`);
    raised = met;
  }
  return marks;
}

function later(said: string): string {
  const [date = '', time = ''] = said.split(', ');
  const [hour = 0, minute = 0] = time.split(':').map(Number);
  const next = hour * 60 + minute + 10;
  return `${date}, ${String(Math.floor(next / 60)).padStart(2, '0')}:${String(next % 60).padStart(2, '0')}`;
}
