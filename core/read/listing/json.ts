import { isObject, leafPaths, queryJson, type JsonBody } from '../formats/json';
import { MOST_FIELDS, SAMPLED, wordsOfName, type Column } from './column';

/** A column for each path to a leaf of the records at a path. */
export function jsonColumns(body: JsonBody, path: string): Column[] {
  const records = queryJson(body, path);
  const paths = records.ok
    ? records.value.slice(0, SAMPLED).flatMap((record) => (isObject(record.exact) ? leafPaths(record.exact) : []))
    : [];
  return [...new Set(paths)]
    .slice(0, MOST_FIELDS)
    .map((each) => ({ label: labelOfPath(each), locator: { way: 'path', path: each } }));
}

function labelOfPath(path: string): string {
  const steps = path
    .replace(/\['([^']*)'\]/g, '.$1')
    .split('.')
    .slice(1);
  const last = steps.at(-1) ?? path;
  return wordsOfName(/^(amount|value|name|id)$/i.test(last) && steps.length > 1 ? steps.slice(-2).join(' ') : last);
}
