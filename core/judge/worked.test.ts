import { describe, expect, it } from 'vitest';
import {
  amount,
  beyond,
  crossing,
  graded,
  hourly,
  HOURLY,
  inState,
  level,
  MONDAY,
  of,
  play,
  pounds,
  tell,
  type Look,
  type Played,
} from '../../tests/support/rule-play';
import { ABSENT, type Measure, type Value } from '../value/value';
import { DAY, HOUR, MINUTE } from '../when/interval';
import type { Figure, JudgedWindow } from './asked';
import type { Clause } from './clause';
import { closeByHand, hear, type Rule } from './engine';
import type { Base } from './kinds/move/judge';
import { describeWhy } from './reason';

const ZONE = 'Europe/London';
const below24 = beyond('below', pounds('24'));
const falls: Rule = { when: crossing('price', below24), whenAlreadyMet: 'wait' };
const price = (text: string): Value => (text.startsWith('EUR') ? pounds(text.slice(3), 'EUR') : pounds(text));
const rises = (more: Partial<Rule> = {}, margin?: Figure): Rule => ({
  when: crossing('value', beyond('above', amount('100')), margin === undefined ? {} : { margin }),
  whenAlreadyMet: 'wait',
  ...more,
});
const by = (text: string): Figure => ({ by: 'amount', amount: amount(text) });
const percent = (text: string): Figure => ({ by: 'percent', percent: amount(text).amount });
const move = (rise: Figure | null, fall: Figure | null, against: Base = { base: 'last' }): Clause => ({
  kind: 'move',
  asked: { field: 'value' },
  against,
  rise,
  fall,
});
const wait = (when: Rule['when'], more: Partial<Rule> = {}): Rule => ({ when, whenAlreadyMet: 'wait', ...more });
const stock = (how: Extract<Clause, { kind: 'state' }>['how']): Clause => ({
  kind: 'state',
  asked: { field: 'stock' },
  how,
});
const OUT = inState('sold out');
const IN = inState('in stock');
const stocks = (text: string): Value => (text === 'out' ? OUT : IN);
const flag = (text: string): Value => ({ kind: 'flag', is: text === 'yes' });

/** A price with the stock behind it: `25in`. */
const both = (said: string): Look[] =>
  said.split(' ').map((text, n) => {
    const [, value = '', where = ''] = /^(.*?)(in|out)?$/.exec(text) ?? [];
    const read = { price: value === '~' ? ABSENT : price(value), ...(where === '' ? {} : { stock: stocks(where) }) };
    return { at: MONDAY + n * HOUR, read };
  });

const at = (clock: string): number => {
  const [hours = 0, minutes = 0] = clock.split(':').map(Number);
  return MONDAY + hours * HOUR + minutes * MINUTE;
};
const timed = (said: string): Look[] =>
  said.split(', ').map((each) => {
    const [clock = '', value = ''] = each.split(' ');
    return { at: at(clock), read: { value: amount(value) } };
  });
const raisedAt = ({ steps }: Played) =>
  steps.flatMap((step) => (step.effects.some(({ do: what }) => what === 'open') ? step.at : []));
const openedAt = ({ steps }: Played) =>
  steps.flatMap(({ effects }) => effects.flatMap((effect) => (effect.do === 'open' ? effect.at : [])));
const closes = ({ steps }: Played) =>
  steps.flatMap((step) => step.effects.flatMap((effect) => (effect.do === 'close' ? [[step.at, effect.because]] : [])));
const says = ({ steps }: Played) =>
  steps.flatMap((step) => step.effects.flatMap((effect) => (effect.do === 'say' ? [[step.at, effect.what]] : [])));
const look = (n: number) => MONDAY + (n - 1) * HOUR;

describe('worked cases that alert at readings', () => {
  it.each<[string, Rule, Look[], number[]]>([
    ['1', falls, hourly('25 23.99 22 24 25 23', 'price', price), [2, 6]],
    ['2', falls, hourly('23 22 25 23', 'price', price), [4]],
    ['3', { ...falls, whenAlreadyMet: 'raise' }, hourly('23 22 25 23', 'price', price), [1, 4]],
    [
      '4',
      wait(level('price', beyond('below', pounds('24'), true))),
      hourly('25 24.00 24.01 24', 'price', price),
      [2, 4],
    ],
    ['5', falls, hourly('25 - - 23 - 22', 'price', price), [4]],
    ['6', falls, hourly('25 ~ 23 ~ 22', 'price', price), [3]],
    ['7', falls, hourly('25 23 EUR20 23 25 23', 'price', price), [2, 6]],
    ['8', rises(), hourly('99 100 101 100 101', 'value'), [3, 5]],
    ['9', rises({}, by('5')), hourly('99 101 99 101 96 101 95 101', 'value'), [2, 8]],
    ['10', rises({ hold: { for: 'readings', count: 3 } }), hourly('99 101 102 99 101 - 102 103 104', 'value'), [8]],
    ['12', rises(), hourly('99 101! 101 99! 102', 'value'), [3]],
    ['13', wait(move(by('1'), by('5'))), hourly('100 96 91 91.5 92.6 87.6', 'value'), [3, 5, 6]],
    ['14', wait(move(by('5'), by('5'), { base: 'told' })), hourly('100 103 104 106 109 111 105', 'value'), [4, 6, 7]],
    ['15', wait(move(percent('10'), percent('10'))), hourly('100 109 119.9 132 118.8', 'value'), [3, 4, 5]],
    ['16', wait(move(percent('10'), percent('10'))), hourly('0 5 5.5', 'value'), [3]],
    ['17', wait(move(null, by('5'))), hourly('100 200 195.01 190', 'value'), [4]],
    ['18', wait(stock({ becomes: OUT })), hourly('in in out out in ~ out', 'stock', stocks), [3, 7]],
    ['19', wait(stock({ leaves: OUT })), hourly('out in out ~ in', 'stock', stocks), [2, 5]],
    [
      '20',
      wait({ kind: 'grade', asked: { field: 'grade' }, how: { moves: 'worse', steps: 2 } }),
      hourly('B C E D F A', 'grade', graded),
      [3, 5],
    ],
    [
      '21',
      wait({ kind: 'grade', asked: { field: 'grade' }, how: { is: 'at or below', grade: 'C' } }),
      hourly('A C B D C', 'grade', graded),
      [2, 4],
    ],
    ['27', wait({ all: [crossing('price', below24), stock({ is: IN })] }), both('25in 23out 23in 22in'), [3]],
    [
      '28',
      { ...wait({ all: [level('price', below24), stock({ is: IN })] }), whenAlreadyMet: 'raise' },
      both('23 23in'),
      [2],
    ],
    [
      '29',
      wait({ any: [level('price', below24), stock({ is: OUT })] }),
      both('25in 23in 23out 25out 25in 25out'),
      [2, 6],
    ],
    [
      '30',
      wait({ kind: 'state', asked: { field: 'door' }, how: { becomes: { kind: 'flag', is: true } } }),
      hourly('no yes yes no yes', 'door', flag),
      [2, 5],
    ],
    ['33', rises({ told: 'reading' }), hourly('99 101 102 99 103', 'value'), [2, 3, 5]],
    [
      '46',
      wait({ any: [move(null, by('5')), level('value', beyond('below', amount('10')))] }),
      hourly('20 14 13 9 3', 'value'),
      [2, 4],
    ],
    ['47', wait({ all: [level('price', below24), stock({ is: IN })] }), both('25in 23in EUR20in 23in'), [2, 4]],
    [
      '50',
      { ...wait(level('value', beyond('above', amount('100')), { margin: by('0') })), whenAlreadyMet: 'raise' },
      hourly('100.1 100 100.1', 'value'),
      [1, 3],
    ],
    [
      '53',
      wait({
        any: [
          { ...move(null, { by: 'amount', amount: pounds('5') }), asked: { field: 'price' } } as Clause,
          stock({ is: OUT }),
        ],
      }),
      both('100in 100out ~in 100in'),
      [2],
    ],
  ])('%s', (_number, rule, looks, alerts) => expect(play(rule, looks).alerts).toEqual(alerts));
});

const over = (
  make: JudgedWindow['make'],
  stretch: JudgedWindow['of'],
  limits: Parameters<typeof level>[1],
  more: Partial<JudgedWindow> = {},
): Rule =>
  wait({
    kind: 'level',
    of: { ...of('value'), over: { make, of: stretch, stepwise: false, grows: true, ...more } },
    limits,
  });
const above = (text: string) => beyond('above', amount(text));
const below = (text: string) => beyond('below', amount(text));
const silence = (how: Extract<Clause, { kind: 'silence' }>['how']): Rule =>
  wait({ kind: 'silence', asked: { field: 'value' }, how });
const none = (count: number, from: number): Look[] =>
  Array.from({ length: count }, (_, n) => ({ at: MONDAY + (from + n) * HOUR, failed: true }));
/** So many readings an hour apart that add up to a sum, from an hour on. */
const adding = (total: number, from: number, to: number): Look[] =>
  Array.from({ length: to - from }, (_, n) => ({
    at: MONDAY + (from + n) * HOUR,
    read: { value: amount(n === 0 ? String(total) : '0') },
  }));

describe('worked cases of episodes, and of what is told of a rule itself', () => {
  it('6: one episode, open from the third reading on', () => {
    const played = play(falls, hourly('25 ~ 23 ~ 22', 'price', price));
    expect([openedAt(played), closes(played), played.memory.state.is]).toEqual([[look(3)], [], 'raised']);
  });
  it('7: that it cannot be judged is told with the third', () => {
    const played = play(falls, hourly('25 23 EUR20 23 25 23', 'price', price));
    expect([says(played), closes(played)]).toEqual([[[look(3), 'cannot be judged']], [[look(3), 'unlike']]]);
  });
  it('10: the episode opened at the fifth reading met of those in a row', () => {
    const played = play(
      rises({ hold: { for: 'readings', count: 3 } }),
      hourly('99 101 102 99 101 - 102 103 104', 'value'),
    );
    expect(openedAt(played)).toEqual([look(5)]);
  });
  it('11: raised by the clock, opened when it was first met', () => {
    const played = play(
      rises({ hold: { for: 'time', ms: 2 * HOUR } }),
      timed('00:00 99, 01:00 101, 01:30 102, 02:30 103, 04:00 104'),
    );
    expect([raisedAt(played), openedAt(played), played.alerts]).toEqual([[at('03:00')], [at('01:00')], [0]]);
  });
  it('12: one episode', () =>
    expect(openedAt(play(rises(), hourly('99 101! 101 99! 102', 'value')))).toEqual([look(3)]));
  it('16: the trail says that from zero there is no percent', () => {
    const { steps } = play(wait(move(percent('10'), percent('10'))), hourly('0 5 5.5', 'value'));
    expect(steps[1]?.findings[0]?.why).toEqual({ code: 'no percent from zero' });
  });
  it('28: undecided with the first', () => {
    const { steps } = play(
      { ...wait({ all: [level('price', below24), stock({ is: IN })] }), whenAlreadyMet: 'raise' },
      both('23 23in'),
    );
    expect(steps[0]?.verdict).toBe('undecided');
  });
  it('29: the first episode closes with the fifth', () => {
    const played = play(
      wait({ any: [level('price', below24), stock({ is: OUT })] }),
      both('25in 23in 23out 25out 25in 25out'),
    );
    expect(closes(played)).toEqual([[look(5), 'left']]);
  });
  it('46: one episode from the fourth', () => {
    const rule = wait({ any: [move(null, by('5')), level('value', below('10'))] });
    expect(openedAt(play(rule, hourly('20 14 13 9 3', 'value')))).toEqual([look(4)]);
  });
  it('47: that it cannot be judged is told with the third', () => {
    const played = play(wait({ all: [level('price', below24), stock({ is: IN })] }), both('25in 23in EUR20in 23in'));
    expect(says(played)).toEqual([[look(3), 'cannot be judged']]);
  });
  it('53: closes with the third: the event counts as not met', () => {
    const fall = { ...move(null, { by: 'amount', amount: pounds('5') }), asked: { field: 'price' } } as Clause;
    expect(closes(play(wait({ any: [fall, stock({ is: OUT })] }), both('100in 100out ~in 100in')))).toEqual([
      [look(3), 'left'],
    ]);
  });
});

describe('worked cases against other series', () => {
  const ours = { field: 'price', record: 'ours' };
  const key = JSON.stringify([null, 'ours', 'price']);
  const against = (limit: Figure): Rule =>
    wait({ kind: 'against', asked: { field: 'price' }, other: ours, is: 'below', by: limit, inclusive: false });
  const side = (n: number, read: Record<string, string>): Look => ({
    at: look(n),
    read: Object.fromEntries(Object.entries(read).map(([name, text]) => [name, pounds(text)])),
  });
  it('22', () => {
    const looks = ['100', '99', '97.9', '98.1', '97'].map((text, n) => side(n + 1, { price: text, [key]: '100' }));
    expect(play(against(percent('2')), looks).alerts).toEqual([3, 5]);
  });
  it('23', () => {
    const looks = [side(1, { price: '24', [key]: '23' }), { ...side(2, { [key]: '25' }), other: true }];
    expect(play(against({ by: 'amount', amount: pounds('0') }), looks).alerts).toEqual([2]);
  });
  const place = (how: 'takes' | 'loses'): Clause => ({
    kind: 'place',
    asked: { field: 'price' },
    among: 'offers',
    end: 'lowest',
    how,
  });
  const among = (n: number, own: string, others: string[]): Look => ({
    ...side(n, { price: own }),
    groups: { offers: others.map((text) => ({ value: pounds(text), at: look(n) })) },
  });
  it('38: lost at 2, taken at 3', () => {
    const looks = [among(1, '20', ['21', '22']), among(2, '20', ['19', '22']), among(3, '18.5', ['19', '22'])];
    expect(play(wait({ any: [place('takes'), place('loses')] }), looks).alerts).toEqual([2, 3]);
    expect([play(wait(place('loses')), looks).alerts, play(wait(place('takes')), looks).alerts]).toEqual([[2], [3]]);
  });
  it('55: taken at 2; what is too old is left out', () => {
    const old = { value: pounds('17'), at: look(1) - 3 * HOUR };
    const looks = [among(1, '20', ['19']), among(2, '18', ['19'])].map((each) => ({
      ...each,
      groups: { offers: [...(each.groups?.offers ?? []), old] },
    }));
    expect(play(wait(place('takes')), looks).alerts).toEqual([2]);
  });
});

describe('worked cases of stretches', () => {
  const thisHour = { this: 'hour', zone: ZONE } as const;
  const thisDay = { this: 'day', zone: ZONE } as const;
  it('24: told within each hour; the first episode closes at its end', () => {
    const looks = timed('10:10 12, 10:30 15, 10:50 6, 11:10 20, 11:40 14');
    const played = play(over('sum', thisHour, above('30')), looks, { ...HOURLY, intervalMs: 20 * MINUTE });
    expect([played.alerts, raisedAt(played), closes(played)]).toEqual([
      [3, 5],
      [at('10:50'), at('11:40')],
      [[at('11:00'), 'left']],
    ]);
  });
  it.each([
    [9, [0], [MONDAY + DAY]],
    [10, [], []],
  ])('25: %d in the day', (total, alerts, raised) => {
    const played = play(over('sum', thisDay, below('10')), adding(total, 0, 24), HOURLY, MONDAY + DAY);
    expect([played.alerts, raisedAt(played)]).toEqual([alerts, raised]);
  });
  it.each([
    [5, /it stands at 9, 19 of 24 runs were read/],
    [0, /it stands at 9$/],
  ])('25, of which the first %d looks failed: says so under nine tenths', (from, says) => {
    const { steps } = play(over('sum', thisDay, below('10')), adding(9, from, 24), HOURLY, MONDAY + DAY);
    const why = steps.findLast(({ findings }) => findings[0] != null)?.findings[0]?.why;
    expect(why === undefined ? '' : describeWhy(why, { locale: 'en-GB', zone: ZONE }).join()).toMatch(says);
  });
  it('26: the pace of a month', () => {
    const first = Date.UTC(2026, 10, 1);
    const daily = Array.from({ length: 9 }, (_, n): Look => ({
      at: first + n * DAY + HOUR,
      read: { value: amount('0') },
    }));
    const looks = [...daily, { at: first + 9.5 * DAY, read: { value: amount('100') } }];
    const { alerts, steps } = play(over('pace', { this: 'month', zone: ZONE }, above('300')), looks, {
      intervalMs: DAY,
      savedAt: first,
    });
    expect(alerts).toEqual([10]);
    const pace = (steps.at(-1)?.findings[0]?.value as Measure).amount;
    expect(Number(pace)).toBeCloseTo(315.8, 1);
    const why = steps.at(-1)?.findings[0]?.why;
    expect(why === undefined ? [] : describeWhy(why, { locale: 'en-GB', zone: 'UTC' }).join()).toMatch(
      /comes to the limit on 29 Nov$/,
    );
  });
  it('39: the mean of the last three; undecided before there are three', () => {
    const { alerts, steps } = play(
      over('mean', { last: 'readings', count: 3 }, above('10')),
      hourly('8 9 12 12 3', 'value'),
    );
    expect([alerts, steps.slice(0, 3).map(({ verdict }) => verdict)]).toEqual([
      [4],
      ['undecided', 'undecided', 'unmet'],
    ]);
  });
  const twoHours = { last: 'time', ms: 2 * HOUR } as const;
  it.each<[string, boolean, number]>([
    ['40', false, 4],
    ['41', true, 5],
  ])('%s', (_number, stepwise, closed) => {
    const played = play(over('maximum', twoHours, above('100'), { stepwise }), hourly('99 101 99 99 99', 'value'));
    expect([played.alerts, closes(played)]).toEqual([[2], [[look(closed), 'left']]]);
  });
  it('44: failing looks do not bring a sum down', () => {
    const played = play(
      over('sum', { last: 'time', ms: 4 * HOUR }, below('10')),
      hourly('5 5 5 5 5 - - - - -', 'value'),
      HOURLY,
      MONDAY + DAY,
    );
    expect([raisedAt(played), played.steps.at(-1)?.verdict]).toEqual([[], 'undecided']);
  });
  it('54: a day whose first reading came at ten', () => {
    const played = play(over('sum', thisDay, below('10')), adding(9, 10, 24), HOURLY, MONDAY + DAY);
    expect(raisedAt(played)).toEqual([MONDAY + DAY]);
  });
});

describe('worked cases of the clock', () => {
  it('31: silent for three hours', () => {
    const played = play(silence({ of: 'readings', ms: 3 * HOUR }), hourly('1 - - - 2', 'value'));
    expect([raisedAt(played), closes(played)]).toEqual([[at('03:00')], [[at('04:00'), 'left']]]);
  });
  it('32: no move for four hours', () => {
    const played = play(silence({ of: 'moves', ms: 4 * HOUR }), hourly('5 5 5 5 5 6', 'value'));
    expect([raisedAt(played), closes(played)]).toEqual([[at('04:00')], [[at('05:00'), 'left']]]);
  });
  it('43: not seen for long enough', () => {
    expect(raisedAt(play(silence({ of: 'moves', ms: 4 * HOUR }), hourly('5 5 - - - - - 6', 'value')))).toEqual([]);
  });
  it('48: a late point breaks no hold', () => {
    const looks: Look[] = [
      { at: at('00:10'), moment: at('00:00'), read: { value: amount('99') } },
      { at: at('01:10'), moment: at('01:00'), read: { value: amount('101') } },
      ...none(2, 2).map((each) => ({ ...each, at: each.at + 10 * MINUTE })),
      { at: at('04:10'), moment: at('02:30'), read: { value: amount('99') } },
      { at: at('04:10'), moment: at('04:00'), read: { value: amount('101') } },
    ];
    const played = play(rises({ hold: { for: 'time', ms: 2 * HOUR } }), looks);
    expect([raisedAt(played), openedAt(played), closes(played), played.memory.state.is]).toEqual([
      [at('03:00')],
      [at('01:00')],
      [],
      'raised',
    ]);
  });
  it('51: the silence of a record that left its list', () => {
    const looks: Look[] = [
      { at: look(1), read: { value: amount('1') } },
      { at: look(2), gone: true },
    ];
    expect(raisedAt(play(silence({ of: 'readings', ms: 3 * HOUR }), looks, HOURLY, at('05:00')))).toEqual([
      at('03:00'),
    ]);
  });
});

describe('worked cases of what is known before', () => {
  it('42: the baseline is the reading before the rule was saved', () => {
    const before: Look = { at: at('10:00'), read: { price: pounds('25') } };
    const played = play(falls, [before, { at: at('11:00'), read: { price: pounds('23') } }], {
      intervalMs: HOUR,
      savedAt: at('10:30'),
    });
    expect(raisedAt(played)).toEqual([at('11:00')]);
  });
  it('52: nothing moved at the baseline', () => {
    const rule: Rule = { ...wait(move(null, by('5'))), whenAlreadyMet: 'raise' };
    const [first, second, ...rest] = hourly('100 94 94 88', 'value') as [Look, Look, ...Look[]];
    const played = play(rule, [second, ...rest], { intervalMs: HOUR, savedAt: look(2) }, 0, [first]);
    expect(played.alerts).toEqual([3]);
  });
  it('49: a record that turns up later has a choice of its own', () => {
    const rule = wait(level('price', below24));
    const later = { ...HOURLY, later: true };
    const looks: Look[] = [{ at: look(2), came: true, read: { price: pounds('20') } }];
    expect([play(rule, looks, later).alerts, play({ ...rule, later: 'wait' }, looks, later).alerts]).toEqual([[1], []]);
  });
  it('37: records appear and vanish', () => {
    const rule = wait({
      any: [
        { kind: 'record', how: 'appears' },
        { kind: 'record', how: 'vanishes' },
      ],
    });
    const c: Look[] = [
      { at: look(2), came: true, read: { price: pounds('1') } },
      { at: look(4), read: { price: pounds('1') } },
    ];
    const a: Look[] = [
      { at: look(1), read: { price: pounds('1') } },
      { at: look(2), read: { price: pounds('1') } },
      { at: look(3), failed: true },
      { at: look(4), gone: true },
    ];
    expect([play(rule, c, { ...HOURLY, later: true }).alerts, play(rule, a).alerts]).toEqual([[1], [4]]);
  });
});

describe('worked cases of telling', () => {
  const nine = { days: [1, 2, 3, 4, 5, 6, 7], from: 9 * 60, to: 17 * 60, zone: ZONE };
  const hourOf = (when: number) => (when - MONDAY) / HOUR;
  it('34: at most once in three hours', () => {
    const told = tell(
      { atMostEvery: 3 * HOUR },
      play(rises(), hourly('99 101 99 101 99 101 99', 'value')),
      MONDAY + DAY,
    );
    expect(told.map(({ what, at: when }) => [what, hourOf(when)])).toEqual([
      ['alert', 1],
      ['kept', 3],
      ['alert', 4],
      ['kept', 5],
      ['alert', 7],
    ]);
  });
  it('35: told when the hours begin', () => {
    const told = tell({ hours: nine }, play(rises(), timed('07:00 99, 08:00 101, 09:00 101')), MONDAY + DAY);
    expect(told.filter(({ what }) => what !== 'kept').map(({ at: when }) => hourOf(when))).toEqual([9]);
  });
  it('36: not told, and counted', () => {
    const told = tell({ hours: nine }, play(rises(), timed('07:00 99, 08:00 101, 08:30 99, 09:00 99')), MONDAY + DAY);
    expect(told).toEqual([
      { at: at('08:00'), what: 'kept', because: 'outside the hours', count: 1 },
      { at: at('09:00'), what: 'kept', because: 'no longer met', count: 1 },
    ]);
  });
  it('45: an event keeps', () => {
    const told = tell(
      { hours: nine },
      play(wait(move(null, by('5'))), timed('02:00 100, 03:00 94, 04:00 100')),
      MONDAY + DAY,
    );
    expect(told.map(({ what, at: when }) => [what, hourOf(when)])).toEqual([
      ['kept', 3],
      ['alert', 9],
    ]);
  });
});

describe('an episode that is closed by hand', () => {
  const closed = (rule: Rule, before: string, after: string) => {
    const looks = hourly(`${before} ${after}`, 'value');
    const count = before.split(' ').length;
    const [made] = closeByHand(rule, play(rule, looks.slice(0, count)).memory, look(count) + MINUTE, HOURLY).slice(-1);
    let memory = made?.memory ?? play(rule, []).memory;
    return looks.slice(count).map(({ at: when, read = {} }) => {
      const seen = new Map(Object.entries(read).map(([key, value]) => [key, { value, at: when }]));
      const steps = hear(rule, memory, { of: 'run', at: when, moment: when, own: true, read: seen }, HOURLY);
      memory = steps.at(-1)?.memory ?? memory;
      return steps.at(-1)?.effects.some((effect) => effect.do === 'alert') ?? false;
    });
  };
  it('is not raised again before its level was left', () => {
    expect(closed(rises(), '99 101', '102 99 101')).toEqual([false, false, true]);
    expect(closed(wait({ none: [level('value', below('100'))] }), '99 101', '102 99 101')).toEqual([
      false,
      false,
      true,
    ]);
  });
  it('is closed with that reason, and only where one is open', () => {
    const { memory } = play(rises(), hourly('99 101', 'value'));
    expect(closeByHand(rises(), memory, look(3), HOURLY).at(-1)?.effects).toEqual([
      { do: 'close', because: 'by hand' },
    ]);
    expect(closeByHand(rises(), play(rises(), hourly('99', 'value')).memory, look(3), HOURLY).at(-1)?.effects).toEqual(
      [],
    );
  });
});
