import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { COARSE, FINE, randomRules, type Scale } from '../../tests/support/random-rules';
import { MONDAY, play, type Look } from '../../tests/support/rule-play';
import { Reference } from '../../tests/support/reference/reference';
import { HOUR } from '../when/interval';
import type { Rule } from './engine';
import { tries } from '#tests/support/search';

const AFTER = 8;

/** What a rule does by the engine, in the words of the reference. */
function marksOf({ grid, hour }: Scale, given: Rule, seen: Look[], history: Look[]) {
  const until = (seen.at(-1)?.at ?? MONDAY) + AFTER * hour;
  return play(given, seen, { intervalMs: hour, savedAt: MONDAY }, until, history).steps.flatMap(({ at, effects }) => {
    const now = MONDAY + Math.ceil((at - MONDAY) / grid) * grid;
    return effects.flatMap((effect): [number, string][] => {
      if (effect.do === 'open') return [[now, `open ${(effect.at - MONDAY) / HOUR}`]];
      if (effect.do === 'alert') return [[now, `alert ${effect.of}`]];
      if (effect.do === 'close') return [[now, `close ${effect.because}`]];
      return effect.do === 'say' && effect.what === 'cannot be judged' ? [[now, effect.what]] : [];
    });
  });
}

function marksByReference({ grid, hour }: Scale, given: Rule, seen: Look[], history: Look[]) {
  const until = (seen.at(-1)?.at ?? MONDAY) + AFTER * hour;
  return new Reference(given, { intervalMs: hour, savedAt: MONDAY }, grid).play(seen, until, history);
}

const RUNS = tries(2_000);

describe('the engine', () => {
  it.each([
    ['ten minutes', COARSE],
    ['a millisecond', FINE],
  ])('comes to what a plain judge comes to that works everything out anew every %s', (_said, scale) => {
    const { rule, looks } = randomRules(scale);
    const before = looks(6).map((each) =>
      each
        .filter(({ failed }) => failed !== true)
        .map(({ at, read = {} }): Look => ({ at: at - 100 * scale.hour, read })),
    );
    fc.assert(
      fc.property(rule, looks(24), before, (given, seen, history) => {
        expect(marksOf(scale, given, seen, history)).toEqual(marksByReference(scale, given, seen, history));
      }),
      { numRuns: RUNS },
    );
  });
});
