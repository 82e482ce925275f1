import { describe, expect, it } from 'vitest';
import { openBody, sniffFormat, type Format } from '../body';
import { pageDefinition, type WatchDefinition } from '../definition';
import { listingsOf } from '../listing/listing';
import { readBody } from '../read';
import { formatValue } from '../../value/format';

const AT = Date.UTC(2026, 10, 20, 12);

/** What the first listing that is offered for a body reads, as rows of text. */
function readAll(text: string, change: Partial<WatchDefinition> = {}) {
  const body = openBody(text, sniffFormat(text), AT);
  if (!body.ok) throw new Error(body.error);
  const [listing] = listingsOf(body.value);
  if (listing === undefined) throw new Error('nothing was offered');
  const definition = {
    ...pageDefinition('x', listing.fields),
    records: listing.records,
    identity: listing.identity,
    ...change,
  };
  const read = readBody(body.value, definition, { address: 'http://source.example/list', latest: () => undefined });
  if (!read.ok) throw new Error(JSON.stringify(read.error));
  return {
    listing,
    reading: read.value,
    rows: read.value.records.map((record) => [
      record.identity,
      ...record.fields.map(({ outcome }) =>
        outcome.ok ? formatValue(outcome.value.value, 'en-GB') : outcome.error.reason,
      ),
    ]),
  };
}

describe('the format of a body', () => {
  it.each<[Format, string]>([
    ['html', '<!doctype html><p>24'],
    ['html', '<div><p>24</p></div>'],
    ['json', '{"a": 1}'],
    ['senml', '[{"bn":"a/","n":"t","v":1}]'],
    ['json', '[{"name":"a"}]'],
    ['xml', '<?xml version="1.0"?><lots><lot/></lots>'],
    ['feed', '<?xml version="1.0"?><rss version="2.0"><channel/></rss>'],
    ['feed', '<feed xmlns="http://www.w3.org/2005/Atom"></feed>'],
    ['metrics', '# TYPE a counter\na_total 1\n'],
    ['metrics', 'up{job="x"} 1\n'],
    ['csv', 'a;b\n1;2\n'],
  ])('%s is told from the content alone: %s', (format, text) => {
    expect(sniffFormat(text)).toBe(format);
  });
});

describe('JSON', () => {
  it('keeps every digit, reads null as absent and takes the currency that stands beside', () => {
    const { rows, listing } = readAll(
      '{"offers":[{"ref":"a","price":{"amount":0.10,"currency":"EUR"}},{"ref":"b","price":{"amount":null,"currency":"EUR"}}]}',
    );
    expect(listing.records).toEqual({ from: 'json', path: '$.offers[*]' });
    expect(rows).toEqual([
      ['a', 'a', '€0.10', 'EUR'],
      ['b', 'b', 'absent', 'EUR'],
    ]);
  });

  it('filters records by RFC 9535', () => {
    const { rows } = readAll('{"o":[{"id":"a","n":1},{"id":"b","n":5}]}', {
      records: { from: 'json', path: '$.o[?@.n > 2]' },
    });
    expect(rows.map(([identity]) => identity)).toEqual(['b']);
  });

  it('refuses what is nested too deep, without running out of stack', () => {
    const opened = openBody('['.repeat(200_000), 'json', AT);
    expect(opened).toMatchObject({ ok: false, error: 'This JSON is nested more than 100 levels deep.' });
  });

  it('tells records of one identity, and reads the others', () => {
    const { reading } = readAll('[{"id":"a","n":1},{"id":"a","n":2},{"id":"b","n":3}]', { identity: ['id'] });
    expect(reading.records.map((record) => record.identity)).toEqual(['b']);
    expect(reading.problems).toMatchObject([{ reason: 'same identity', identity: 'a', count: 2 }]);
  });
});

describe('CSV', () => {
  it('finds out its dialect: delimiter, head, decimal commas, days first', () => {
    const { rows, listing } = readAll(
      'day;campaign;spend EUR;clicks\r\n19.11.2026;"Search; brand";1.098,17;670\r\n18.11.2026;Display;20,00;9\r\n',
    );
    expect(listing.fields.map((field) => field.type.kind)).toEqual(['moment', 'text', 'money', 'number']);
    expect(rows[0]?.slice(1)).toEqual(['19 Nov 2026', 'Search; brand', '€1,098.17', '670']);
  });

  it('names columns itself where the first row holds data', () => {
    expect(readAll('north,12\nsouth,14\n').listing.fields.map((field) => field.label)).toEqual([
      'column 1',
      'column 2',
    ]);
  });
});

describe('XML and feeds', () => {
  it('reads elements and attributes, whatever their namespace', () => {
    const lots =
      '<l:lots xmlns:l="urn:x"><l:lot number="1"><l:grade>B</l:grade></l:lot><l:lot ' +
      'number="2"><l:grade>A</l:grade></l:lot></l:lots>';
    expect(readAll(`<?xml version="1.0"?>${lots}`).rows).toEqual([
      ['1', '1', 'B'],
      ['2', '2', 'A'],
    ]);
  });

  it('expands no entity of a document’s own', () => {
    const bomb =
      '<?xml version="1.0"?><!DOCTYPE l [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><l><i k="1">&b;</i><i ' +
      'k="2">x</i></l>';
    expect(JSON.stringify(readAll(bomb, { records: { from: 'xml', path: '//i' } }).rows)).not.toContain('aaaa');
  });

  it('reads an Atom entry and an RSS item alike', () => {
    const atom =
      '<feed><entry><id>1</id><title>Lime in flower</title><updated>2026-11-20T08:00:00Z</updated><link ' +
      'href="http://f.example/1"/></entry></feed>';
    const rss =
      '<rss><channel><item><guid>1</guid><title>Lime in flower</title><pubDate>Fri, 20 Nov 2026 08:00:00 ' +
      'GMT</pubDate><link>http://f.example/1</link></item></channel></rss>';
    expect(readAll(atom).rows).toEqual([['1', 'Lime in flower', '20 Nov 2026, 08:00 UTC', 'http://f.example/1']]);
    expect(readAll(rss).rows).toEqual(readAll(atom).rows);
  });
});

describe('metrics', () => {
  it('make the labels the identity, and carry unit and time', () => {
    const { reading, rows } = readAll(
      '# TYPE t gauge\n# UNIT t seconds\nt{b="2",a="1\\"x"} 1.50 1763640000.5\n# EOF\n',
    );
    expect(rows).toEqual([['t{a="1\\"x",b="2"}', '1.50 seconds']]);
    expect(reading.records[0]).toMatchObject({ labels: { a: '1"x', b: '2' }, marks: { at: 1_763_640_000_500 } });
  });

  it('take times of the older format in milliseconds, and exponents exactly', () => {
    const { reading, rows } = readAll('up 1.5e3 1763640000500\n');
    expect(rows).toEqual([['up', '1,500']]);
    expect(reading.records[0]?.marks.at).toBe(1_763_640_000_500);
  });

  it('name the line that is none', () => {
    expect(openBody('up 1\nnot a sample at all\n', 'metrics', AT)).toMatchObject({
      ok: false,
      error: 'Line 2 is no sample: “not a sample at all”.',
    });
  });
});

describe('SenML', () => {
  it('resolves base name, time, unit and value, exactly (RFC 8428, 5)', () => {
    const { rows, reading } = readAll(
      '[{"bn":"hive1/","bt":1763640000,"bu":"Cel","bv":20.1,"n":"top","v":0.2},{"n":"base","t":-60,"v":1},{"n":"lid","u":"","vb":true}]',
    );
    expect(rows).toEqual([
      ['hive1/top', '20.3 °C'],
      ['hive1/base', '21.1 °C'],
      ['hive1/lid', 'yes'],
    ]);
    expect(reading.records.map((record) => record.marks.at)).toEqual([
      1_763_640_000_000, 1_763_639_940_000, 1_763_640_000_000,
    ]);
  });

  it('counts small times from now, carries quality, and is one record at several times', () => {
    const { reading } = readAll('[{"n":"t","t":-10,"v":1,"quality":"good"},{"n":"t","v":2,"quality":"bad"}]');
    expect(reading.records.map(({ identity, marks }) => [identity, marks.at, marks.quality])).toEqual([
      ['t', AT - 10_000, 'good'],
      ['t', AT, 'bad'],
    ]);
  });

  it('refuses what it must understand and does not', () => {
    expect(openBody('[{"n":"t","v":1,"x_":1}]', 'senml', AT)).toMatchObject({ ok: false });
    expect(openBody('[{"bver":11,"n":"t","v":1}]', 'senml', AT)).toMatchObject({ ok: false });
  });
});
