import { describe, expect, it } from 'vitest';
import { formatValue } from '../value/format';
import { openBody } from './body';
import type { WatchDefinition } from './definition';
import { listingsOf } from './listing/listing';
import { readBody } from './read';

const NOW = 1_764_000_000_000;

function pack(...points: object[]) {
  const opened = openBody(JSON.stringify(points), 'senml', NOW);
  if (!opened.ok) throw new Error(opened.error);
  return opened.value;
}

const at = (seconds: number) => NOW / 1000 - seconds;
const HIVES = pack(
  { n: 'apiary/hive1/weight', u: 'kg', v: 34.5, t: at(60) },
  { n: 'apiary/hive1/brood-temperature', u: 'Cel', v: 34.9, t: at(60) },
  { n: 'apiary/hive2/weight', u: 'kg', v: 36.1, t: at(60) },
  { n: 'apiary/hive2/brood-temperature', u: 'Cel', v: 35.2, t: at(60), quality: 'bad' },
  { n: 'apiary/store/door', vb: true, t: at(60) },
);

const grouped = (body = HIVES) => {
  const listing = listingsOf(body).find(({ records }) => records.from === 'senml' && records.grouped === true);
  return listing === undefined ? null : listing;
};

function definition(body = HIVES): WatchDefinition {
  const listing = grouped(body);
  if (listing === null) throw new Error('nothing is grouped');
  const { records, fields, identity, names } = listing;
  return { subject: 'Hives', records, fields, identity, variant: null, chosen: null, leftOut: [], guards: [], names };
}

function read(body: ReturnType<typeof pack>, by = definition()) {
  const done = readBody(body, by, { address: null, latest: () => undefined });
  if (!done.ok) throw new Error(JSON.stringify(done.error));
  return done.value.records.map(({ identity, name, marks, fields }) => ({
    identity,
    name,
    seconds: marks.at === null ? null : (NOW - marks.at) / 1000,
    fields: Object.fromEntries(
      fields.map(({ field, outcome }) => [
        field,
        outcome.ok ? [formatValue(outcome.value.value, 'en-GB'), outcome.value.quality ?? null] : outcome.error.reason,
      ]),
    ),
  }));
}

describe('points that differ in their last part', () => {
  it('are offered as fields of one record, beside each by itself', () => {
    expect(listingsOf(HIVES).map(({ said }) => said)).toEqual(['5 points', '3 records with their points as fields']);
    expect(grouped()?.fields.map(({ label, type, mode }) => [label, type.kind, mode])).toEqual([
      ['weight', 'number', 'measured'],
      ['brood temperature', 'number', 'measured'],
      ['door', 'stated', 'measured'],
    ]);
  });

  it('are read together, each with its own quality, and what a record does not have is no failure', () => {
    expect(read(HIVES)).toEqual([
      {
        identity: 'apiary/hive1',
        name: 'Hive 1',
        seconds: 60,
        fields: { weight: ['34.5 kg', null], 'brood-temperature': ['34.9 °C', null] },
      },
      {
        identity: 'apiary/hive2',
        name: 'Hive 2',
        seconds: 60,
        fields: { weight: ['36.1 kg', null], 'brood-temperature': ['35.2 °C', 'bad'] },
      },
      { identity: 'apiary/store', name: 'Store', seconds: 60, fields: { door: ['yes', null] } },
    ]);
  });

  it('at several times are one record seen at each of them', () => {
    const later = pack(
      { n: 'apiary/hive1/weight', u: 'kg', v: 34.5, t: at(60) },
      { n: 'apiary/hive1/weight', u: 'kg', v: 34.1, t: at(30) },
    );
    expect(read(later).map(({ seconds, fields }) => [seconds, fields.weight?.[0]])).toEqual([
      [60, '34.5 kg'],
      [30, '34.1 kg'],
    ]);
  });

  it('are refused where one is stated twice for one moment', () => {
    const twice = pack(
      { n: 'apiary/hive1/weight', u: 'kg', v: 34.5, t: at(60) },
      { n: 'apiary/hive1/weight', u: 'kg', v: 99, t: at(60) },
    );
    const done = readBody(twice, definition(), { address: null, latest: () => undefined });
    expect(done.ok && done.value.records).toEqual([]);
    expect(done.ok && done.value.problems.map(({ reason }) => reason)).toEqual(['same identity']);
  });

  it('are not grouped where their names have one part, or no two share what is before the last', () => {
    expect(grouped(pack({ n: 'temperature', v: 1 }, { n: 'humidity', v: 2 }))).toBeNull();
    expect(grouped(pack({ n: 'store/temperature', v: 1 }, { n: 'hive/weight', v: 2 }))).toBeNull();
  });
});
