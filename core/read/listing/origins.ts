import type { Body } from '../body';
import type { RecordSource } from '../definition';
import { listPaths } from '../formats/json';
import type { MetricsBody } from '../formats/metrics';
import { blocksIn, rowColumns } from './blocks';
import { groupOf } from '../records';
import type { SenmlBody } from '../formats/senml';
import { wordsOfName, type Column, type Origin } from './column';
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
      return [
        { records: { from: 'senml' } },
        ...(isGrouped(body) ? [{ records: { from: 'senml', grouped: true } as const }] : []),
      ];
  }
}

/** What stands in the records of a body, by its format. */
export function columnsFor(body: Body, records: RecordSource): Column[] {
  if (records.from === 'json' && body.format === 'json') return jsonColumns(body, records.path);
  if (records.from === 'csv' && body.format === 'csv')
    return body.columns.map((column) => ({ label: column, locator: { way: 'column', column } }));
  if (records.from === 'xml' && body.format === 'xml') return xmlColumns(body, records.path);
  if (records.from === 'feed')
    return ['title', 'published', 'link', 'summary', 'category', 'author'].map((part) => ({
      label: part,
      locator: { way: 'part', part },
    }));
  if (records.from === 'metrics')
    return [{ label: records.family ?? 'value', locator: { way: 'part', part: 'value' }, mode: 'measured' }];
  if (records.from === 'senml' && body.format === 'senml')
    return records.grouped === true ? groupedColumns(body) : POINT;
  if (records.from === 'rows' && body.format === 'html')
    return records.table === undefined
      ? rowColumns(body.document, records.rows)
      : records.table.heads.map((column) => ({ label: column.toLowerCase(), locator: { way: 'column', column } }));
  return [];
}

const POINT: Column[] = [{ label: 'value', locator: { way: 'part', part: 'value' }, mode: 'measured' }];

const partsOf = (body: SenmlBody) => new Map(body.points.map((point) => [point.name, groupOf(point)]));

/** Whether points that differ in their last part share what is before it. */
function isGrouped(body: SenmlBody): boolean {
  const parts = [...partsOf(body).values()].filter(({ part }) => part !== '');
  return new Set(parts.map(({ group }) => group)).size < parts.length;
}

function groupedColumns(body: SenmlBody): Column[] {
  const parts = new Set([...partsOf(body).values()].map(({ part }) => part));
  return [...parts].slice(0, MOST_GROUPED).map((part) => ({
    label: wordsOfName(part) || 'value',
    locator: { way: 'part', part: `value:${part}` },
    mode: 'measured',
  }));
}

/** As many fields as a watch may have. */
const MOST_GROUPED = 20;

function familiesIn(body: MetricsBody): (string | null)[] {
  const named = [...new Set(body.samples.map((sample) => sample.family))];
  return named.length > 1 ? [...named, null] : named;
}
