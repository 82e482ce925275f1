import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MONDAY } from '#tests/support/rule-play';
import { DAY, HOUR, MINUTE, type Instant } from '../when/interval';
import {
  freshThrottle,
  nextThrottle,
  nextWithin,
  tellAt,
  tellOf,
  type ActiveHours,
  type Throttle,
  type ThrottleEvent,
  type Notification,
} from './throttle';
import { tries } from '#tests/support/search';

const LONDON = 'Europe/London';
const everyDay = [1, 2, 3, 4, 5, 6, 7];
const hours = (from: number, to: number, days = everyDay, zone = LONDON): ActiveHours => ({
  days,
  from: from * 60,
  to: to * 60,
  zone,
});

type Happening = [at: Instant, event: ThrottleEvent];

/**
 * Tells what happens, and what the clock brings up to the end; what is remembered goes through its stored form each
 * time.
 */
function told(telling: Throttle, happenings: Happening[], until: Instant): Notification[] {
  let memory = freshThrottle(MONDAY);
  const all: Notification[] = [];
  const take = (step: { memory: typeof memory; told: Notification[] }) => {
    memory = JSON.parse(JSON.stringify(step.memory)) as typeof memory;
    all.push(...step.told);
  };
  for (const [at, event] of happenings) take(tellOf(telling, memory, event, at));
  for (let next = nextThrottle(telling, memory); next !== null && next <= until; next = nextThrottle(telling, memory))
    take(tellAt(telling, memory, next));
  return all;
}

const raised: ThrottleEvent = { is: 'alert', of: 'raised' };
const event: ThrottleEvent = { is: 'alert', of: 'event' };
const closed: ThrottleEvent = { is: 'closed' };
const hour = (at: number) => MONDAY + at * HOUR;
const said = (all: Notification[]) =>
  all.filter(({ what }) => what !== 'kept').map(({ what, at }) => [what, (at - MONDAY) / HOUR]);

describe('what is told', () => {
  it('loses nothing of what was held where something comes at the very end of the time', () => {
    const all = told(
      { atMostEvery: 3 * HOUR },
      [
        [hour(1), event],
        [hour(2), event],
        [hour(4), event],
        [hour(6), event],
      ],
      hour(20),
    );
    expect(said(all)).toEqual([
      ['alert', 1],
      ['several', 4],
      ['alert', 7],
    ]);
    expect(
      said(
        told(
          { atMostEvery: 3 * HOUR },
          [
            [hour(1), event],
            [hour(4), event],
          ],
          hour(20),
        ),
      ),
    ).toEqual([
      ['alert', 1],
      ['alert', 4],
    ]);
  });

  it('is told at once where nothing keeps it', () => {
    expect(
      said(
        told(
          {},
          [
            [hour(1), raised],
            [hour(2), closed],
            [hour(3), raised],
          ],
          hour(9),
        ),
      ),
    ).toEqual([
      ['alert', 1],
      ['alert', 3],
    ]);
  });

  it('rests after it was told once, until it is started by hand', () => {
    const all = told(
      { once: true },
      [
        [hour(1), raised],
        [hour(2), closed],
        [hour(3), raised],
        [hour(4), { is: 'started' }],
        [hour(5), closed],
        [hour(6), raised],
      ],
      hour(9),
    );
    expect(said(all)).toEqual([
      ['alert', 1],
      ['alert', 6],
    ]);
  });

  it('is reminded of until it is taken on, or is over', () => {
    const reminds: Throttle = { remindEvery: 2 * HOUR };
    expect(
      said(
        told(
          reminds,
          [
            [hour(1), raised],
            [hour(6), { is: 'taken on' }],
          ],
          hour(20),
        ),
      ),
    ).toEqual([
      ['alert', 1],
      ['reminder', 3],
      ['reminder', 5],
    ]);
    expect(
      said(
        told(
          reminds,
          [
            [hour(1), raised],
            [hour(4), closed],
          ],
          hour(20),
        ),
      ),
    ).toEqual([
      ['alert', 1],
      ['reminder', 3],
    ]);
    expect(said(told(reminds, [[hour(1), event]], hour(20)))).toEqual([['alert', 1]]);
  });

  it('is reminded of within the hours alone, and once for all that were missed', () => {
    const all = told({ remindEvery: 2 * HOUR, hours: hours(9, 17) }, [[hour(16), raised]], hour(36));
    expect(said(all)).toEqual([
      ['alert', 16],
      ['reminder', 33],
      ['reminder', 35],
    ]);
  });

  it('waits while it is put off: an event is told then, what is over is counted', () => {
    const off: Happening = [hour(1), { is: 'put off', until: hour(5) }];
    expect(said(told({}, [off, [hour(2), event], [hour(3), event]], hour(9)))).toEqual([['several', 5]]);
    expect(said(told({}, [off, [hour(2), raised], [hour(3), closed]], hour(9)))).toEqual([]);
    expect(said(told({}, [off, [hour(2), raised]], hour(9)))).toEqual([['alert', 5]]);
  });

  it('is told as one with what was held, however that fell out of the hours', () => {
    const all = told(
      { atMostEvery: 3 * HOUR, hours: hours(9, 17) },
      [
        [hour(15), event],
        [hour(16), event],
        [hour(16.5), event],
      ],
      hour(40),
    );
    expect(all.filter(({ what }) => what !== 'kept')).toEqual([
      { at: hour(15), what: 'alert' },
      { at: hour(33), what: 'several', count: 2, since: hour(16) },
    ]);
  });

  it('is told before it ends, where it is held or waits', () => {
    const all = told(
      { atMostEvery: 10 * HOUR },
      [
        [hour(1), event],
        [hour(2), event],
        [hour(3), { is: 'ended' }],
      ],
      hour(40),
    );
    expect(said(all)).toEqual([
      ['alert', 1],
      ['alert', 3],
    ]);
  });
});

describe('what waits', () => {
  const night = { hours: hours(9, 17) };
  it('of a level that is told at every reading is not told once that is left', () => {
    const again: ThrottleEvent = { is: 'alert', of: 'again' };
    const reads: Happening[] = [
      [hour(7), raised],
      [hour(8), again],
    ];
    expect(said(told(night, [...reads, [hour(8.5), closed]], hour(12)))).toEqual([]);
    expect(said(told(night, reads, hour(12)))).toEqual([['several', 9]]);
    const happened: Happening = [hour(8), { ...again, happened: true }];
    expect(said(told(night, [[hour(7), raised], happened, [hour(8.5), closed]], hour(12)))).toEqual([['alert', 9]]);
  });

  it('is told once with what comes at the very moment, by a rule that rests after it was told', () => {
    const off: Happening[] = [
      [hour(1), raised],
      [hour(1), { is: 'started' }],
      [hour(1.5), { is: 'put off', until: hour(3) }],
      [hour(2), event],
      [hour(3), event],
    ];
    expect(said(told({ once: true }, off, hour(12)))).toEqual([
      ['alert', 1],
      ['several', 3],
    ]);
  });

  it('ends with its episode: what opens next is told as it opens', () => {
    const off: Happening[] = [
      [hour(1), raised],
      [hour(1.5), { is: 'put off', until: hour(9) }],
      [hour(2), closed],
      [hour(3), raised],
    ];
    expect(said(told({}, off, hour(12)))).toEqual([
      ['alert', 1],
      ['alert', 3],
    ]);
  });
});

describe('active hours', () => {
  const on = (text: string) => Date.parse(text);
  it.each<[string, ActiveHours, string, string]>([
    ['within them', hours(9, 17), '2026-11-02T12:00Z', '2026-11-02T12:00Z'],
    ['before them', hours(9, 17), '2026-11-02T08:59Z', '2026-11-02T09:00Z'],
    ['at their end, which is excluded', hours(9, 17), '2026-11-02T17:00Z', '2026-11-03T09:00Z'],
    ['on a day that is none of theirs', hours(9, 17, [1, 2, 3, 4, 5]), '2026-11-07T12:00Z', '2026-11-09T09:00Z'],
    ['over midnight they belong to the day they began', hours(22, 6, [5]), '2026-11-07T03:00Z', '2026-11-07T03:00Z'],
    ['and not to the next', hours(22, 6, [5]), '2026-11-06T03:00Z', '2026-11-06T22:00Z'],
    ['in a place', hours(9, 17, everyDay, 'America/New_York'), '2026-11-02T12:00Z', '2026-11-02T14:00Z'],
    [
      'from a time that the clock jumps over: the first moment after',
      hours(1.5, 5),
      '2026-03-29T00:30Z',
      '2026-03-29T01:00Z',
    ],
    ['from a time that there is twice: the first', hours(1.5, 5), '2026-10-25T00:00Z', '2026-10-25T00:30Z'],
    ['all day long', hours(0, 0), '2026-11-02T23:59Z', '2026-11-02T23:59Z'],
  ])('%s', (_said, given, at, expected) => {
    expect(new Date(nextWithin(given, on(at))).toISOString()).toBe(new Date(on(expected)).toISOString());
  });
});

const GRID = 30 * MINUTE;
const happening = fc.record({
  gap: fc.integer({ min: 0, max: 9 }),
  what: fc.constantFrom(
    'raised' as const,
    'raised' as const,
    'event' as const,
    'event' as const,
    'again' as const,
    'happened' as const,
    'closed' as const,
    'taken on' as const,
    'put off' as const,
    'started' as const,
  ),
  off: fc.integer({ min: 1, max: 12 }),
});
const telling: fc.Arbitrary<Throttle> = fc.record(
  {
    once: fc.constant(true),
    atMostEvery: fc.integer({ min: 1, max: 12 }).map((steps) => steps * GRID),
    remindEvery: fc.integer({ min: 1, max: 12 }).map((steps) => steps * GRID),
    hours: fc
      .tuple(fc.integer({ min: 0, max: 23 }), fc.integer({ min: 0, max: 23 }), fc.subarray(everyDay, { minLength: 1 }))
      .map(([from, to, days]) => hours(from, to, days)),
  },
  { requiredKeys: [] },
);

/** Happenings as an engine and people bring them about: what is open closes, and is raised when it is not. */
const happenings = fc.array(happening, { maxLength: 30 }).map((all): Happening[] => {
  let [at, open] = [MONDAY, false];
  return all.flatMap(({ gap, what, off }): Happening[] => {
    at += gap * GRID;
    const isOfOpen = ['closed', 'taken on', 'again', 'happened', 'put off'].includes(what);
    if ((what === 'raised' && open) || (isOfOpen && !open)) return [];
    if (what === 'happened') return [[at, { is: 'alert', of: 'again', happened: true }]];
    if (what === 'raised' || what === 'closed') open = what === 'raised';
    if (what === 'put off') return [[at, { is: 'put off', until: at + off * GRID }]];
    return [[at, what === 'raised' || what === 'event' || what === 'again' ? { is: 'alert', of: what } : { is: what }]];
  });
});

const clock = new Intl.DateTimeFormat('en-GB', {
  timeZone: LONDON,
  weekday: 'short',
  hour: '2-digit',
  minute: '2-digit',
});

/** Whether a moment lies within hours, by asking for its day and its time of day alone. */
function isWithin({ days, from, to }: ActiveHours, at: Instant): boolean {
  const parts = clock.formatToParts(at);
  const part = (type: string) => parts.find((each) => each.type === type)?.value ?? '';
  const weekday = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'].indexOf(part('weekday')) + 1;
  const minutes = 60 * Number(part('hour')) + Number(part('minute'));
  if (from < to) return days.includes(weekday) && minutes >= from && minutes < to;
  return (
    (days.includes(weekday) && minutes >= from) || (days.includes(weekday === 1 ? 7 : weekday - 1) && minutes < to)
  );
}

/**
 * The same by a plain walk over a grid: at each step what happens is sorted out anew, with lists and no times to come.
 */
class Walk {
  readonly all: [string, number][] = [];
  #resting = false;
  #open = false;
  #taken = false;
  #lastTold: Instant | null = null;
  #reminded: Instant | null = null;
  #off: Instant | null = null;
  #waiting: ('level' | 'event')[] = [];
  #held = 0;
  #now = MONDAY;

  constructor(
    private readonly telling: Throttle,
    given: Happening[],
    until: Instant,
  ) {
    const left = [...given];
    for (; this.#now <= until; this.#now += GRID) {
      while (left[0] !== undefined && left[0][0] === this.#now) this.#take((left.shift() as Happening)[1]);
      this.#letGo();
      if (!this.#isFree()) continue;
      this.#tellWaiting();
      this.#remind();
    }
  }

  #isFree(): boolean {
    return (
      (this.#off === null || this.#off <= this.#now) &&
      (this.telling.hours === undefined || isWithin(this.telling.hours, this.#now))
    );
  }

  /** What comes at the very end of the time comes before that ends: it is told with what was held. */
  #isGated(coming = false): boolean {
    const { atMostEvery } = this.telling;
    if (this.#lastTold === null || atMostEvery === undefined) return false;
    const end = this.#lastTold + atMostEvery;
    return this.#now < end || (coming && this.#now === end && this.#held > 0);
  }

  #take(what: ThrottleEvent): void {
    if (what.is === 'closed') {
      [this.#open, this.#reminded, this.#off] = [false, null, null];
      this.#waiting = this.#waiting.filter((each) => each === 'event');
    }
    if (what.is === 'taken on') [this.#taken, this.#reminded] = [true, null];
    if (what.is === 'put off') this.#off = what.until;
    if (what.is === 'started') this.#resting = false;
    if (what.is === 'alert') this.#alert(what.of, what.happened);
  }

  #alert(of: 'raised' | 'event' | 'again' | 'further', happened = of === 'event'): void {
    if (of === 'raised') [this.#open, this.#taken] = [true, false];
    if (this.#resting) return;
    const isFree = this.#isFree();
    if (isFree && this.#isGated(true)) this.#held += 1;
    else if (!isFree || this.#waiting.length > 0) this.#waiting.push(happened ? 'event' : 'level');
    else this.#tell(1);
  }

  #tell(count: number): void {
    this.all.push([count === 1 ? 'alert' : 'several', (this.#now - MONDAY) / HOUR]);
    this.#lastTold = this.telling.atMostEvery === undefined ? null : this.#now;
    this.#held = 0;
    this.#resting = this.telling.once === true;
    if (this.#open && !this.#taken) this.#reminded = this.#now;
  }

  /** What was held while nothing more was told waits from then on, over or not. */
  #letGo(): void {
    if (this.#lastTold === null || this.#isGated()) return;
    this.#lastTold = null;
    this.#waiting.push(...Array.from({ length: this.#held }, () => 'event' as const));
    this.#held = 0;
  }

  #tellWaiting(): void {
    const count = this.#waiting.length;
    this.#waiting = [];
    if (count > 0 && this.#isGated()) this.#held += count;
    else if (count > 0) this.#tell(count);
  }

  #remind(): void {
    const { remindEvery } = this.telling;
    if (
      this.#reminded === null ||
      remindEvery === undefined ||
      !this.#open ||
      this.#taken ||
      this.#now < this.#reminded + remindEvery
    )
      return;
    this.all.push(['reminder', (this.#now - MONDAY) / HOUR]);
    this.#reminded = this.#now;
  }
}

const RUNS = tries(800);

describe('telling', () => {
  it('comes to what a plain walk over time comes to', () => {
    fc.assert(
      fc.property(telling, happenings, (given, all) => {
        const until = (all.at(-1)?.[0] ?? MONDAY) + 8 * DAY;
        expect(said(told(given, all, until))).toEqual(new Walk(given, all, until).all);
      }),
      { numRuns: RUNS },
    );
  });
});
