import { describe, expect, it } from 'vitest';
import { DAY, HOUR } from '../when/interval';
import { describeProblem, oddTime, type ReadProblem } from './problem';

const NOW = Date.UTC(2026, 5, 1, 9);

describe('a source’s own time', () => {
  it.each<[string, number, boolean]>([
    ['of now', NOW, true],
    ['of long ago', Date.UTC(1999, 0, 1), true],
    ['of another zone', NOW + 14 * HOUR, true],
    ['of tomorrow', NOW + DAY + 1, false],
    ['before 1970', -1, false],
    ['beyond the calendar', Number.POSITIVE_INFINITY, false],
    ['that is no number', Number.NaN, false],
  ])('%s', (_, at, right) => {
    expect(oddTime(at, NOW) === null).toBe(right);
  });

  it('is told with what it was', () => {
    expect(describeProblem({ reason: 'odd time', at: NOW + 400 * DAY })).toContain(
      'Its own time (2027-07-06 09:00) cannot be right',
    );
    expect(describeProblem({ reason: 'odd time', at: Number.POSITIVE_INFINITY })).toContain('(beyond the calendar)');
  });
});

describe('what kept a field from being read', () => {
  const problems: ReadProblem[] = [
    { reason: 'no match', where: 'its class .price' },
    { reason: 'several matches', where: 'its class .price', count: 3 },
    { reason: 'bad selector', where: 'css', detail: 'It does not end.' },
    { reason: 'not here', where: 'a JSONPath' },
    { reason: 'not parsed', where: 'its class', text: 'call us', refusal: 'no number' },
    { reason: 'disagreement', first: '£1', second: '£2' },
    { reason: 'one way left', where: 'its class', text: '£1' },
    { reason: 'not computed', said: 'It would divide by nought.' },
    { reason: 'another format', said: 'This is not JSON.' },
    { reason: 'odd time', at: -1 },
    { reason: 'no records' },
    { reason: 'same identity', identity: 'A', count: 2 },
    { reason: 'no identity', field: 'none' },
    { reason: 'no identity', field: 'lot' },
    { reason: 'long identity', begins: 'Honey' },
  ];

  it.each(problems.map((problem) => [problem.reason, problem] as const))(
    '%s is a sentence of its own',
    (_, problem) => {
      expect(describeProblem(problem)).toMatch(/^[A-Z“\d].+[.!]$/u);
      expect(problems.filter((each) => describeProblem(each) === describeProblem(problem))).toHaveLength(1);
    },
  );
});
