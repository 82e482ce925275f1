import { describe, expect, it } from 'vitest';
import { formatValue } from '../value/format';
import { ALL_RECORDS, isAllRecords, NUMBER_OF_RECORDS, withNumber } from './all-records';
import { openBody } from './body';
import { pageDefinition, type Field, type RecordSource, type WatchDefinition } from './definition';
import { describeProblem } from './problem';
import { readBody } from './read';

const field = (key: string, type: Field['type']): Field => ({
  key,
  label: key,
  type,
  mode: 'stepwise',
  polarity: 'neither',
  locale: null,
  locators: [{ way: 'column', column: key }],
});

const LOT = [field('lot', { kind: 'text' }), field('price', { kind: 'number' })];
const definition = (change: Partial<WatchDefinition> = {}): WatchDefinition => {
  const said: WatchDefinition = {
    ...pageDefinition('Lots', LOT),
    records: { from: 'csv' },
    identity: ['lot'],
    ...change,
  };
  return { ...said, fields: withNumber(said) };
};

/** What is read of a list of lots: which records, and what their number is. */
function readOf(rows: string[], said: WatchDefinition = definition()) {
  const body = openBody(['lot,price', ...rows].join('\n'), 'csv', 0);
  const read = body.ok ? readBody(body.value, said, { address: null, latest: () => undefined }) : null;
  if (read === null || !read.ok) return { records: [], number: 'nothing read', price: null };
  const [all] = read.value.records.filter(isAllRecords);
  const outcome = all?.fields.find(({ field: key }) => key === NUMBER_OF_RECORDS)?.outcome;
  return {
    records: read.value.records.filter((record) => !isAllRecords(record)).map(({ identity }) => identity),
    number:
      outcome === undefined
        ? 'not asked'
        : outcome.ok
          ? formatValue(outcome.value.value, 'en-GB')
          : describeProblem(outcome.error),
    fields: read.value.records.map((record) => record.fields.map(({ field: key }) => key).join(' ')),
  };
}

describe('the number of records', () => {
  it('is that of all, and a field of none of them alone', () => {
    expect(readOf(['a,1', 'b,2', 'c,'])).toEqual({
      records: ['a', 'b', 'c'],
      number: '3',
      fields: ['lot price', 'lot price', 'lot price', NUMBER_OF_RECORDS],
    });
  });

  it('is that of those she chose, where she did', () => {
    expect(readOf(['a,1', 'b,2', 'c,3'], definition({ chosen: ['a', 'c', 'z'] }))).toMatchObject({
      records: ['a', 'c'],
      number: '2',
    });
  });

  it('is not known where some cannot be told apart', () => {
    expect(readOf(['a,1', 'b,2', 'b,3']).number).toBe(
      'How many there are cannot be said: 1 were read, and others could not be told apart.',
    );
  });

  it('is no other where a record is called as all of them are', () => {
    expect(readOf(['a,1', `${ALL_RECORDS},2`])).toMatchObject({
      records: ['a'],
      number: expect.stringMatching(/cannot be said/),
    });
  });

  it('is nothing where there are none: that is a page that broke', () => {
    expect(readOf([]).number).toBe('nothing read');
  });

  it('is not read before anybody asks it', () => {
    expect(readOf(['a,1'], { ...definition(), fields: LOT }).number).toBe('not asked');
  });

  it.each<[RecordSource, boolean]>([
    [{ from: 'rows', rows: '.lot' }, true],
    [{ from: 'json', path: '$.lots[*]' }, true],
    [{ from: 'xml', path: '//lot' }, true],
    [{ from: 'csv' }, true],
    [{ from: 'feed' }, true],
    [{ from: 'json', path: '$' }, false],
    [{ from: 'page' }, false],
    [{ from: 'metrics', family: null }, false],
    [{ from: 'senml' }, false],
  ])('can be asked of %j: %s', (records, can) => {
    expect(withNumber({ records, fields: LOT }).length).toBe(can ? 3 : 2);
    const twice = withNumber({ records, fields: withNumber({ records, fields: LOT }) });
    expect(twice.length).toBe(can ? 3 : 2);
  });
});
