import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DAY, MINUTE } from '#core/when/interval';
import { numbered } from '#tests/support/numbered';
import type { Person } from '../db/person/people';
import { goOn, mailOf, troubleOf, WELL, type Told, type Trouble, type Watch } from './trouble';

const AFTER = 3 * MINUTE;
const BEGAN = Date.UTC(2026, 4, 4, 9);
const pulse = { workers: 1, lastSeen: BEGAN, nextDue: null, overdue: 0, lost: 0, fullSince: null };

/** What is told over a stretch of looks a minute apart, each mail taken. */
function play(seen: (Trouble | null)[]): (Told & { minute: number })[] {
  const told: (Told & { minute: number })[] = [];
  let watch: Watch = WELL;
  seen.forEach((each, minute) => {
    const now = BEGAN + minute * MINUTE;
    const next = goOn(watch, each, now, AFTER);
    watch = next.watch;
    if (next.tell === null) return;
    told.push({ ...next.tell, minute });
    if (watch.state === 'trouble') watch = { ...watch, toldAt: now };
  });
  return told;
}

const lasting = (what: Trouble | null, minutes: number) => Array.from({ length: minutes }, () => what);

describe('what keeps everybody from hearing', () => {
  it('is seen in the pulse, the worst first', () => {
    expect(troubleOf(pulse)).toBeNull();
    expect(troubleOf(null)).toBe('no database');
    expect(troubleOf({ ...pulse, workers: 0, fullSince: BEGAN })).toBe('no worker');
    expect(troubleOf({ ...pulse, fullSince: BEGAN })).toBe('disk full');
  });

  it('is told once it lasted a while, and once more that it is over', () => {
    const told = play([null, ...lasting('no worker', 20), null, null]);
    expect(told.map(({ kind, minute }) => [kind, minute])).toEqual([
      ['begun', 4],
      ['over', 21],
    ]);
  });

  it('is not told where it passed before that, nor that it is over', () => {
    expect(play([...lasting('no worker', 3), null, ...lasting('disk full', 3), null])).toEqual([]);
  });

  it('is one trouble where one kind turns into another', () => {
    const told = play([...lasting('disk full', 10), ...lasting('no database', 10), null]);
    expect(told.map(({ kind, what }) => [kind, what])).toEqual([
      ['begun', 'disk full'],
      ['over', 'no database'],
    ]);
    expect(told[1]?.since).toBe(BEGAN);
  });

  it('is told again each day', () => {
    const told = play(lasting('no database', (3 * DAY) / MINUTE));
    expect(told.map(({ kind }) => kind)).toEqual(['begun', 'lasts', 'lasts']);
  });

  it('is never told twice within a day, nor that it is over where it was not told', () => {
    const each = fc.constantFrom<Trouble | null>(null, null, 'no worker', 'disk full', 'no database');
    fc.assert(
      fc.property(fc.array(fc.tuple(each, fc.nat(6)), { maxLength: 30 }), (stretches) => {
        const kinds = play(stretches.flatMap(([what, minutes]) => lasting(what, minutes))).map(({ kind }) => kind);
        kinds.forEach((kind, at) => expect(kind).toBe(at % 2 === 0 ? 'begun' : 'over'));
      }),
    );
  });

  it('is written for its reader, in her own time', () => {
    const ines: Person = {
      id: numbered(1),
      name: 'Inés Calloway',
      email: 'ines@heatherlow.example',
      locale: 'en-GB',
      zone: 'Europe/London',
      confirmedAt: BEGAN,
      pausedAt: null,
    };
    const mail = (kind: Told['kind']) =>
      mailOf({ kind, what: 'no worker', since: BEGAN }, ines, 'http://shrike.example', BEGAN + 5 * MINUTE);
    expect(mail('begun').subject).toBe('Nobody hears from Shrike: no worker has run');
    expect(mail('begun').text).toContain('For 5 min, since Mon 4 May 2026 10:00:00 BST, no worker has run.');
    expect(mail('lasts').subject).toMatch(/^Still nobody/);
    expect(mail('over').text).not.toContain('nobody hears');
  });
});
