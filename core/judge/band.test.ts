import { writeFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { amount, MONDAY, play, pounds, type Look } from '../../tests/support/rule-play';
import { HOUR } from '../when/interval';
import { bandAt, freshBand, learnBand, wanted, type BandAsked, type BandMemory } from './band';
import type { Rule } from './engine';

/** Random numbers of a seed (mulberry32), so that a table says the same each time. */
function randomFrom(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
}

/** A series by the number of its reading, an hour apart; what is not noise is marked, and no alarm on it is false. */
type Series = (at: number, random: () => number) => { value: number; real?: boolean };

const normal = (random: () => number) => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
const heavy = (random: () => number) =>
  normal(random) / Math.sqrt((normal(random) ** 2 + normal(random) ** 2 + normal(random) ** 2) / 3);
const wave = (at: number) => Math.sin((2 * Math.PI * at) / 24);

function poisson(mean: number, random: () => number): number {
  let [count, share, drawn] = [0, Math.exp(-mean), random()];
  while (drawn > share && count < 60) {
    drawn -= share;
    count += 1;
    share *= mean / count;
  }
  return count;
}

const SERIES: Record<string, Series> = {
  'normal noise': (_, random) => ({ value: 100 + normal(random) }),
  'heavy-tailed noise (t, 3)': (_, random) => ({ value: 100 + heavy(random) }),
  'a daily season': (at, random) => ({ value: 100 + 5 * wave(at) + normal(random) }),
  'a weekly season': (at, random) => ({
    value: 100 + 4 * wave(at) - (Math.floor(at / 24) % 7 > 4 ? 8 : 0) + normal(random),
  }),
  'a trend': (at, random) => ({ value: 100 + 0.02 * at + normal(random) }),
  'outliers, one in 2,000': (at, random) => ({
    value: 100 + normal(random) + (at % 1997 === 0 ? 10 : 0),
    real: at % 1997 === 0,
  }),
  'level shifts, one in 5,000': (at, random) => ({
    value: 100 + 6 * (Math.floor(at / 5000) % 2) + normal(random),
    real: at >= 5000 && at % 5000 < 24,
  }),
  'counts near nought (0.4)': (_, random) => ({ value: poisson(0.4, random) }),
};

const HISTORY = 1_500;
const asked = (oneIn: number): BandAsked => ({ side: 'either', oneIn, zone: 'UTC' });

/** The share of false alarms over the share that was asked, after a history of nine weeks. */
function falseAlarms(series: Series, oneIn: number, readings: number, seed: number): number {
  const random = randomFrom(seed);
  let memory = freshBand(asked(oneIn), HOUR);
  let [judged, alarms] = [0, 0];
  for (let at = 0; at < HISTORY + readings; at += 1) {
    const { value, real } = series(at, random);
    const band = bandAt(asked(oneIn), memory, at * HOUR);
    if (at >= HISTORY && band !== null && real !== true) {
      judged += 1;
      if (value > band.high || value < band.low) alarms += 1;
    }
    memory = learnBand(asked(oneIn), memory, value, at * HOUR);
  }
  return (alarms / judged) * oneIn;
}

/**
 * The share of shifts of four standard deviations that are seen within two readings: after each of some histories,
 * many.
 */
function seenWithinTwo(series: Series, oneIn: number): number {
  const [histories, shifts] = [8, 50];
  let seen = 0;
  for (let history = 0; history < histories; history += 1) {
    const random = randomFrom(1000 + history);
    let known: BandMemory = freshBand(asked(oneIn), HOUR);
    for (let at = 0; at < 600; at += 1) known = learnBand(asked(oneIn), known, series(at, random).value, at * HOUR);
    for (let shift = 0; shift < shifts; shift += 1) if (isSeen(series, oneIn, known, random)) seen += 1;
  }
  return seen / (histories * shifts);
}

function isSeen(series: Series, oneIn: number, known: BandMemory, random: () => number): boolean {
  let memory = known;
  return [600, 601].some((at) => {
    const value = series(at, random).value + 4;
    const band = bandAt(asked(oneIn), memory, at * HOUR);
    memory = learnBand(asked(oneIn), memory, value, at * HOUR);
    return band !== null && value > band.high;
  });
}

describe('the expected band', () => {
  const rows: string[] = [];
  it.each(Object.entries(SERIES))('lets through one in as many as was asked: %s', (name, series) => {
    const shares = [falseAlarms(series, 50, 6_000, 1), falseAlarms(series, 200, 16_000, 2)];
    rows.push(`| ${name} | ${shares.map((share) => share.toFixed(2)).join(' | ')} |`);
    for (const share of shares) expect(Math.abs(share - 1)).toBeLessThanOrEqual(0.2);
  });

  it('sees a shift of four standard deviations within two readings', () => {
    const seen = ['normal noise', 'a daily season'].map(
      (name) => [name, ...[50, 200].map((oneIn) => seenWithinTwo(SERIES[name] as Series, oneIn))] as const,
    );
    for (const [, atFifty, atTwoHundred] of seen) {
      expect(atFifty).toBeGreaterThanOrEqual(0.9);
      expect(atTwoHundred).toBeGreaterThanOrEqual(0.75);
    }
    const shifts = seen.map(
      ([name, ...shares]) => `| ${name} | ${shares.map((share) => `${Math.round(100 * share)}%`).join(' | ')} |`,
    );
    if (process.env.SHRIKE_WRITE !== undefined)
      writeFileSync(new URL('../../docs/bands.md', import.meta.url), table(rows, shifts));
  });

  it('says nothing with too short a history, and how much more it needs', () => {
    let memory = freshBand(asked(50), HOUR);
    for (let at = 0; at < 29; at += 1) memory = learnBand(asked(50), memory, at % 3, at * HOUR);
    expect([bandAt(asked(50), memory, 29 * HOUR), wanted(memory)]).toEqual([null, { has: 29, of: 30 }]);
    expect(bandAt(asked(50), learnBand(asked(50), memory, 1, 29 * HOUR), 30 * HOUR)).not.toBeNull();
  });

  it('takes anything else as unusual where nothing ever moved', () => {
    let memory = freshBand(asked(200), HOUR);
    for (let at = 0; at < 100; at += 1) memory = learnBand(asked(200), memory, 5, at * HOUR);
    expect(bandAt(asked(200), memory, 100 * HOUR)).toEqual({ expected: 5, low: 5, high: 5 });
  });

  it('reaches to one side alone where that is asked', () => {
    const high: BandAsked = { side: 'high', oneIn: 50, zone: 'UTC' };
    const random = randomFrom(3);
    let memory = freshBand(high, HOUR);
    for (let at = 0; at < 200; at += 1) memory = learnBand(high, memory, normal(random), at * HOUR);
    const band = bandAt(high, memory, 200 * HOUR);
    expect(band?.low).toBe(-Infinity);
    expect(band?.high).toBeGreaterThan(1);
  });

  it('is a level of a rule: undecided before there is enough, met outside, begun anew in another unit', () => {
    const rule: Rule = {
      when: { kind: 'unusual', asked: { field: 'value' }, side: 'either', oneIn: 200, zone: 'UTC' },
      whenAlreadyMet: 'wait',
    };
    const usual = Array.from({ length: 60 }, (_, at) => (at % 7) - 3).map((each, at): Look => ({
      at: MONDAY + at * HOUR,
      read: { value: amount(String(each)) },
    }));
    const then = [40, 41, 1].map((each, at): Look => ({
      at: MONDAY + (60 + at) * HOUR,
      read: { value: amount(String(each)) },
    }));
    const other: Look = { at: MONDAY + 63 * HOUR, read: { value: pounds('1') } };
    const { steps, alerts } = play(rule, [...usual, ...then, other]);
    expect(alerts).toEqual([61]);
    expect(steps.map(({ verdict }) => verdict)).toEqual([
      ...Array.from({ length: 30 }, () => 'undecided'),
      ...Array.from({ length: 30 }, () => 'unmet'),
      'met',
      'met',
      'unmet',
      'undecided',
    ]);
    expect(steps.flatMap(({ effects }) => effects.map((effect) => effect.do))).toEqual([
      'open',
      'alert',
      'close',
      'say',
    ]);
  });

  it('keeps no more whatever lies behind it', () => {
    const random = randomFrom(4);
    let memory = freshBand(asked(50), HOUR);
    for (let at = 0; at < 5_000; at += 1) memory = learnBand(asked(50), memory, normal(random), at * HOUR);
    const kept = memory.seasons.reduce(
      (sum, { slots, recent, missed }) => sum + recent.length + missed.length + Object.values(slots).flat().length,
      0,
    );
    expect(kept).toBeLessThanOrEqual(2_500);
  });
});

const table = (rows: string[], shifts: string[]) => `# The expected band, measured

Made by \`SHRIKE_WRITE=1 npx vitest run --project unit core/judge/band.test.ts\`. Readings are an hour apart, and nine weeks of them were
known before. How the band is made is said in \`core/judge/band.ts\`.

## False alarms

The share of readings of mere noise outside the band, over the share that was asked: 1 is right, and within a fifth is held by the test.
Alarms on outliers and in the day after a level shift are none of these.

| series | one in 50 | one in 200 |
| --- | ---: | ---: |
${rows.join('\n')}

## Shifts

How many shifts of four standard deviations are seen within two readings.

| series | one in 50 | one in 200 |
| --- | ---: | ---: |
${shifts.join('\n')}
`;
