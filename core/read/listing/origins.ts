import type { Body } from '../body';
import type { RecordSource } from '../definition';
import { listPaths } from '../formats/json';
import type { MetricsBody } from '../formats/metrics';
import { blocksIn, rowColumns } from './blocks';
import type { Column, Origin } from './column';
import { jsonColumns } from './json';
import { tablesIn } from './tables';
import { repeatedIn, xmlColumns } from './xml';

/** Where a body may hold records, the likeliest first. */
export function originsIn(body: Body): Origin[] {
  switch (body.format) {
    case 'html':
      return [...tablesIn(body.document), ...blocksIn(body.document)];
    case 'json':
      return [...listPaths(body), '$'].map((path) => ({ records: { from: 'json', path } as const }));
    case 'csv':
      return [{ records: { from: 'csv' } }];
    case 'xml':
      return repeatedIn(body).map((path) => ({ records: { from: 'xml', path } as const }));
    case 'feed':
      return [{ records: { from: 'feed' } }];
    case 'metrics':
      return familiesIn(body).map((family) => ({ records: { from: 'metrics', family } as const }));
    case 'senml':
      return [{ records: { from: 'senml' } }];
  }
}

/** What stands in the records of a body, by its format. */
export function columnsFor(body: Body, records: RecordSource): Column[] {
  if (records.from === 'json' && body.format === 'json') return jsonColumns(body, records.path);
  if (records.from === 'csv' && body.format === 'csv') return body.columns.map((column) => ({ label: column, locator: { way: 'column', column } }));
  if (records.from === 'xml' && body.format === 'xml') return xmlColumns(body, records.path);
  if (records.from === 'feed')
    return ['title', 'published', 'link', 'summary', 'category', 'author'].map((part) => ({ label: part, locator: { way: 'part', part } }));
  if (records.from === 'metrics') return [{ label: records.family ?? 'value', locator: { way: 'part', part: 'value' }, mode: 'measured' }];
  if (records.from === 'senml') return [{ label: 'value', locator: { way: 'part', part: 'value' }, mode: 'measured' }];
  if (records.from === 'rows' && body.format === 'html')
    return records.table === undefined
      ? rowColumns(body.document, records.rows)
      : records.table.heads.map((column) => ({ label: column.toLowerCase(), locator: { way: 'column', column } }));
  return [];
}

function familiesIn(body: MetricsBody): (string | null)[] {
  const named = [...new Set(body.samples.map((sample) => sample.family))];
  return named.length > 1 ? [...named, null] : named;
}
