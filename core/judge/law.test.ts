import { describe, expect, it } from 'vitest';
import {
  amount,
  beyond,
  hourly,
  HOURLY,
  inState,
  level,
  MONDAY,
  play,
  pounds,
  type Look,
  type Played,
} from '../../tests/support/rule-play';
import { ABSENT, type Measure, type Value } from '../value/value';
import { HOUR, MINUTE } from '../when/interval';
import { keyOf, type Asked, type Figure, type JudgedWindow } from './asked';
import type { Clause } from './clause';
import { closeByHand, hear, type Rule } from './engine';

// Small cases in which two readings of the law were possible, or one of them was made.

const at = (clock: string): number => {
  const [hours = 0, minutes = 0] = clock.split(':').map(Number);
  return MONDAY + hours * HOUR + minutes * MINUTE;
};
const timed = (said: string, field = 'value'): Look[] =>
  said.split(', ').map((each) => {
    const [clock = '', value = ''] = each.split(' ');
    return { at: at(clock), read: { [field]: value === '~' ? ABSENT : amount(value) } };
  });
const by = (text: string): Figure => ({ by: 'amount', amount: amount(text) });
const waits = (when: Rule['when'], more: Partial<Rule> = {}): Rule => ({ when, whenAlreadyMet: 'wait', ...more });
const raises = (when: Rule['when'], more: Partial<Rule> = {}): Rule => ({ when, whenAlreadyMet: 'raise', ...more });
const happened = ({ steps }: Played) => happenedIn(steps);
const happenedIn = (steps: Played['steps']) =>
  steps.flatMap((step) =>
    step.effects.flatMap((effect) => {
      const minutes = (step.at - MONDAY) / MINUTE;
      const clock = `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;
      if (effect.do === 'alert') return [`${clock} ${effect.of}`];
      if (effect.do === 'close') return [`${clock} ${effect.because}`];
      return effect.do === 'say' ? [`${clock} ${effect.what}`] : [];
    }),
  );
const over = (make: JudgedWindow['make'], span: JudgedWindow['of'], more: Partial<JudgedWindow> = {}) => ({
  asked: { field: 'value' },
  over: { make, of: span, stepwise: false, grows: true, ...more },
});
const HALF_HOURLY = { ...HOURLY, intervalMs: 30 * MINUTE };
const THIS_HOUR = { this: 'hour', zone: 'UTC' } as const;
const price = (text: string): Value => (text.startsWith('EUR') ? pounds(text.slice(3), 'EUR') : pounds(text));

describe('a value held against one of another watch', () => {
  const X: Asked = { field: 'value', watch: 2, record: '' };
  const above: Clause = {
    kind: 'against',
    asked: { field: 'value' },
    other: X,
    is: 'above',
    by: by('0'),
    inclusive: false,
  };
  /** What was read of its own, with the last of the other and when that was read. */
  const looks = (said: string) =>
    said.split(', ').map((each) => {
      const [clock = '', own = '', other = '', when = ''] = each.split(' ');
      const read = new Map([
        ...(own === '-' ? [] : [['value', { value: amount(own), at: at(clock) }] as const]),
        ...(other === '' ? [] : [[keyOf(X), { value: amount(other), at: at(when) }] as const]),
      ]);
      return { of: 'run' as const, at: at(clock), moment: at(clock), own: own !== '-', read };
    });
  const raisedAt = (rule: Rule, said: string, until: string) => {
    let { memory, steps } = play(rule, [], HOURLY);
    for (const look of looks(said)) {
      const made = hear(rule, memory, look, HOURLY);
      steps = [...steps, ...made];
      memory = made.at(-1)?.memory ?? memory;
    }
    const rest = play(rule, [], HOURLY, at(until), memory);
    return happenedIn([...steps, ...rest.steps]);
  };

  it('is remembered while the other is too old to be held against', () => {
    const before = '00:00 25 30 00:00, 01:00 25 30 00:00, 04:00 5 30 00:00, 05:30 - 20 05:30';
    expect(raisedAt(waits(above), before, '05:30')).toEqual([]);
    const mirror = '00:00 5 30 00:00, 01:00 5 30 00:00, 04:00 25 30 00:00, 05:30 - 20 05:30';
    expect(raisedAt(waits(above), mirror, '05:30')).toEqual(['05:30 raised']);
  });

  it('is not raised by the clock once the other is too old', () => {
    const held = raises(above, { hold: { for: 'time', ms: 90 * MINUTE } });
    expect(raisedAt(held, '01:00 5 20 01:00, 02:00 25 20 01:00, 03:00 25 20 01:00', '04:00')).toEqual([]);
    const read = '01:00 5 20 01:00, 02:00 25 20 01:00, 03:00 25 20 02:30';
    expect(raisedAt(held, read, '04:00')).toEqual(['03:30 raised']);
  });
});

describe('a stretch of the calendar', () => {
  it('that rises above a limit in each hour is told in each but the one in which the rule was saved', () => {
    const rises: Clause = { kind: 'crossing', of: over('sum', THIS_HOUR), limits: beyond('above', amount('30')) };
    expect(happened(play(waits(rises), hourly('40 40 40', 'value'))).filter((each) => each.endsWith('raised'))).toEqual(
      ['01:00 raised', '02:00 raised'],
    );
    expect(happened(play(waits(rises), timed('00:10 10, 00:20 25')))).toEqual(['00:20 raised']);
  });

  it('is left as soon as that is certain', () => {
    const under: Clause = { kind: 'level', of: over('sum', THIS_HOUR), limits: beyond('below', amount('10')) };
    const looks = timed('00:00 5, 00:30 1, 01:00 5, 01:20 10, 01:40 1');
    expect(happened(play(waits(under), looks, HALF_HOURLY))).toEqual(['01:00 raised', '01:20 left']);
  });

  it('is raised early where it can no longer come back within two limits', () => {
    const outside: Clause = {
      kind: 'level',
      of: over('sum', THIS_HOUR),
      limits: { is: 'outside', low: amount('10'), high: amount('20'), inclusive: false },
    };
    expect(happened(play(raises(outside), timed('00:00 5, 00:20 16'), HOURLY))).toEqual(['00:20 raised']);
    const between: Clause = { ...outside, limits: { ...outside.limits, is: 'between' } } as Clause;
    const looks = timed('00:00 5, 00:30 8, 01:00 12, 01:10 9');
    expect(happened(play(waits(between), looks, HALF_HOURLY))).toEqual(['01:00 raised', '01:10 left']);
  });

  it('whose pace has a margin is left by the clock when it has fallen by that', () => {
    const pace: Clause = {
      kind: 'level',
      of: over('pace', THIS_HOUR),
      limits: beyond('above', amount('100')),
      margin: by('20'),
    };
    const { steps } = play(raises(pace), timed('00:06 20'), HOURLY, at('00:50'));
    expect(happenedIn(steps)).toEqual(['00:06 raised', '00:15 left']);
  });
});

describe('a sliding stretch', () => {
  it('takes what is read at a moment before it lets go of what is too old by then', () => {
    const max: Clause = {
      kind: 'level',
      of: over('maximum', { last: 'time', ms: 2 * HOUR }),
      limits: beyond('above', amount('100')),
    };
    expect(happened(play(waits(max), hourly('99 101 99 101 99', 'value'), HOURLY, at('06:00')))).toEqual([
      '01:00 raised',
      '05:00 left',
    ]);
  });

  it('of the last readings counts the step into the first of them', () => {
    const increase = (limit: string): Rule =>
      raises({
        kind: 'level',
        of: over('increase', { last: 'readings', count: 3 }),
        limits: beyond('above', amount(limit)),
      });
    expect(happened(play(increase('16'), hourly('5 20 21 22', 'value')))).toEqual(['03:00 raised']);
    expect(happened(play(increase('17'), hourly('5 20 21 22', 'value')))).toEqual([]);
    expect(happened(play(increase('16'), hourly('5 ~ 20 21 22', 'value')))).toEqual(['04:00 raised']);
  });

  it('in which values are counted in two units cannot be judged, though only readings are counted', () => {
    for (const make of ['readings', 'moves'] as const) {
      const counts: Clause = {
        kind: 'level',
        of: {
          asked: { field: 'price' },
          over: { make, of: { last: 'readings', count: 3 }, stepwise: false, grows: false },
        },
        limits: beyond('above', amount('1')),
      };
      expect(happened(play(raises(counts), hourly('20 21 22 EUR20', 'price', price)))).toEqual([
        '02:00 raised',
        '03:00 unlike',
        '03:00 cannot be judged',
      ]);
    }
  });

  it('is told at every move of what it comes to', () => {
    const sum: Clause = {
      kind: 'level',
      of: over('sum', { last: 'readings', count: 2 }),
      limits: beyond('above', amount('30')),
    };
    expect(happened(play(waits(sum, { told: 'move' }), hourly('10 10 25 25 10 40', 'value')))).toEqual([
      '02:00 raised',
      '03:00 again',
      '04:00 again',
      '05:00 again',
    ]);
  });
});

describe('a record that vanished', () => {
  it.each<[string, Clause]>([
    [
      'a stretch',
      {
        kind: 'level',
        of: over('maximum', { last: 'time', ms: 3 * HOUR }),
        limits: beyond('below', amount('20')),
      },
    ],
    [
      'the same time before',
      { kind: 'before', asked: { field: 'value' }, by: 'day', zone: 'UTC', rise: null, fall: by('10') },
    ],
    [
      'a pace',
      { kind: 'level', of: over('pace', { this: 'day', zone: 'UTC' }), limits: beyond('below', amount('100')) },
    ],
  ])('is not judged by the clock: %s', (_, clause) => {
    const looks: Look[] = [...timed('00:30 30, 01:30 10, 02:30 10'), { at: at('03:00'), gone: true }];
    const { steps } = play(waits(clause), looks, HOURLY, at('48:00'));
    expect(happenedIn(steps.filter((step) => step.at > at('03:00')))).toEqual([]);
  });
});

describe('closed by hand', () => {
  it('while its value is missing it is raised again only once it was left', () => {
    const rule = raises(level('value', beyond('above', amount('100'))));
    const { memory } = play(rule, hourly('101 ~', 'value'));
    const closed = closeByHand(rule, memory, at('01:30'), HOURLY).at(-1)?.memory;
    const after = (said: string) =>
      said.split(' ').reduce(
        (known, text, n) => {
          const when = at('02:00') + n * HOUR;
          const read = new Map([['value', { value: amount(text), at: when }]]);
          const made = hear(rule, known.memory, { of: 'run', at: when, moment: when, own: true, read }, HOURLY);
          return { memory: made.at(-1)?.memory ?? known.memory, steps: [...known.steps, ...made] };
        },
        { memory: closed as NonNullable<typeof closed>, steps: [] as Played['steps'] },
      ).steps;
    expect(happenedIn(after('101 102'))).toEqual([]);
    expect(happenedIn(after('101 99 101'))).toEqual(['04:00 raised']);
  });
});

describe('a value that is counted in something else', () => {
  it('ends the waiting for a level to be left', () => {
    const under: Rule = waits(level('price', beyond('below', pounds('24'))));
    expect(happened(play(under, hourly('23 EUR20 23', 'price', price)))).toEqual([
      '01:00 cannot be judged',
      '02:00 raised',
    ]);
  });

  it('is told of once, whatever is missing between', () => {
    const falls: Clause = {
      kind: 'move',
      asked: { field: 'price' },
      against: { base: 'last' },
      rise: null,
      fall: { by: 'amount', amount: pounds('5') },
    };
    expect(happened(play(waits(falls), hourly('25 EUR20 ~ EUR20', 'price', price)))).toEqual([
      '01:00 cannot be judged',
    ]);
    expect(happened(play(waits(falls), hourly('EUR20 EUR20', 'price', price)))).toEqual([]);
    expect(play(waits(falls), hourly('EUR20', 'price', price)).memory.state.is).toBe('undecided');
  });

  it('makes a place begin anew', () => {
    const takes: Clause = { kind: 'place', asked: { field: 'price' }, among: 'records', end: 'lowest', how: 'takes' };
    const looks = ['20 19', 'EUR15 19', '18 19', '20 19', '18 19'].map((said, n): Look => {
      const [own = '', other = ''] = said.split(' ');
      const when = MONDAY + n * HOUR;
      return { at: when, read: { price: price(own) }, groups: { records: [{ value: pounds(other), at: when }] } };
    });
    expect(happened(play(waits(takes), looks))).toEqual(['01:00 cannot be judged', '04:00 event']);
  });

  it('is left out among others, save where there is nobody else', () => {
    const has: Clause = { kind: 'place', asked: { field: 'price' }, among: 'records', end: 'lowest', how: 'has' };
    const looks = (...others: string[]): Look[] =>
      others.map((said, n) => {
        const when = MONDAY + n * HOUR;
        const group = said.split(' ').map((each) => ({ value: price(each), at: when }));
        return { at: when, read: { price: price('20') }, groups: { records: group } };
      });
    expect(happened(play(raises(has), looks('19 22', 'EUR5 22', 'EUR5 EUR6')))).toEqual([
      '01:00 raised',
      '02:00 unlike',
      '02:00 cannot be judged',
    ]);
  });
});

describe('a change of so many words', () => {
  it('of a long text that was missing is counted from what it was before', () => {
    const words = Array.from({ length: 300 }, (_, n) => `word${n}`);
    const text = (changed: number): Value => ({
      kind: 'text',
      text: words.map((word, n) => (n < changed ? `other${n}` : word)).join(' '),
    });
    const rule = waits({ kind: 'change', asked: { field: 'value' }, words: 20 });
    const after = (changed: number) => {
      const values = [text(0), ABSENT, ABSENT, text(changed)];
      let { memory, steps } = play(rule, []);
      for (const [n, value] of values.entries()) {
        const when = MONDAY + n * HOUR;
        const before = values[n - 1];
        const read = new Map([['value', { value, at: when, ...(before === undefined ? {} : { before }) }]]);
        const made = hear(rule, memory, { of: 'run', at: when, moment: when, own: true, read }, HOURLY);
        memory = JSON.parse(JSON.stringify(made.at(-1)?.memory)) as typeof memory;
        steps = [...steps, ...made];
      }
      return happenedIn(steps);
    };
    expect(after(1)).toEqual([]);
    expect(after(25)).toEqual(['03:00 event']);
  });
});

describe('usual pace', () => {
  it('is that of moves alone: the first reading is none', () => {
    const rests: Clause = { kind: 'silence', asked: { field: 'value' }, how: { of: 'moves', times: 3 } };
    // Moves at 09, 10, 11 and 12; gaps of 1 h. With the nine hours from the first reading three gaps are there by 11.
    const looks = hourly('1 1 1 1 1 1 1 1 1 2 3 4 5 5 5 5 5', 'value');
    expect(happened(play(waits(rests), looks))).toEqual(['15:00 raised']);
    expect(happened(play(waits(rests), hourly('1 1 1 2 3 4 4 4 4 4 4 4 4 4', 'value')))).toEqual([]);
  });
});

describe('a hold of so many readings', () => {
  it('counts looks that bring only the other side', () => {
    const above: Clause = {
      kind: 'against',
      asked: { field: 'value' },
      other: { field: 'other' },
      is: 'above',
      by: by('0'),
      inclusive: false,
    };
    const looks: Look[] = [
      { at: at('00:00'), read: { value: amount('5'), other: amount('9') } },
      { at: at('01:00'), read: { value: amount('10') } },
      { at: at('02:00'), read: { other: amount('8') } },
      { at: at('03:00'), read: { other: amount('7') } },
    ];
    expect(happened(play(waits(above, { hold: { for: 'readings', count: 3 } }), looks))).toEqual(['03:00 raised']);
  });
});

describe('the peak of an episode', () => {
  const peaks = ({ steps }: Played) =>
    steps.flatMap(({ effects }) =>
      effects.flatMap((effect) =>
        (effect.do === 'open' || effect.do === 'peak') && effect.peak !== null
          ? Number((effect.peak.value as Measure).amount)
          : [],
      ),
    );

  it('is furthest within two limits', () => {
    const between = level('value', { is: 'between', low: amount('10'), high: amount('20'), inclusive: true });
    expect(peaks(play(raises(between), hourly('11 12 19 16 14', 'value')))).toEqual([11, 12, 16]);
  });

  it('is furthest from what a move is held against', () => {
    const away: Clause = {
      kind: 'move',
      asked: { field: 'value' },
      against: { base: 'pinned', value: amount('100') },
      rise: by('5'),
      fall: by('5'),
    };
    expect(peaks(play(raises(away), hourly('106 103 94 107 88 110', 'value')))).toEqual([106, 94, 107, 88]);
  });

  it('is furthest beyond another value', () => {
    const above: Clause = {
      kind: 'against',
      asked: { field: 'value' },
      other: { field: 'other' },
      is: 'above',
      by: by('0'),
      inclusive: false,
    };
    const looks: Look[] = [
      ['12', '10'],
      ['15', '14'],
      ['14', '11'],
    ].map(([own = '', other = ''], n) => ({
      at: MONDAY + n * HOUR,
      read: { value: amount(own), other: amount(other) },
    }));
    expect(peaks(play(raises(above), looks))).toEqual([12, 14]);
  });

  it('is none of states', () => {
    const out: Clause = { kind: 'state', asked: { field: 'stock' }, how: { is: inState('out') } };
    const { steps } = play(raises(out), hourly('out out', 'stock', inState));
    expect(steps.flatMap(({ effects }) => effects.filter((effect) => effect.do === 'peak'))).toEqual([]);
  });
});

describe('a silence', () => {
  const silent: Clause = { kind: 'silence', asked: { field: 'value' }, how: { of: 'readings', ms: HOUR } };

  it('that was due before the first point came was one, whatever time that point bears', () => {
    const first: Look = { at: at('05:00'), moment: MONDAY - 10 * MINUTE, read: { value: amount('5') } };
    expect(happened(play(raises(silent), [first]))).toEqual(['01:00 raised', '05:00 left']);
  });
});
