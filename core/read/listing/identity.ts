import { foldText } from '../../value/parse';
import type { Field } from '../definition';
import { keptFor } from '../order';
import type { RawRecord } from '../records';
import type { Role } from '../role';

/** What tells records apart, the surest first. */
const IDENTIFYING: readonly (Role | undefined)[] = ['identifier', 'name', 'day'];

/** The field, or the few, whose values tell the records apart: named like a key first, then any text, then pairs. */
export function proposeIdentity(records: RawRecord[], fields: Field[]): string[] {
  const ranked = fields.filter((field) => rank(field) < MEASURES).sort((a, b) => rank(a) - rank(b));
  const columnOf = keptFor((field: Field) => records.map((record) => textIn(record, field)));
  const isFull = (field: Field) => columnOf(field).every((text) => text !== '');
  const distinct = (keys: Field[]) => areDistinct(keys.map(columnOf));
  const one = ranked.find((field) => isFull(field) && distinct([field]));
  if (one !== undefined) return [one.key];
  const full = ranked.filter(isFull);
  for (const [at, first] of full.entries()) {
    const second = full.slice(at + 1).find((field) => distinct([first, field]));
    if (second !== undefined) return [first.key, second.key];
  }
  return [];
}

/** Whether no two rows of some columns are the same. */
function areDistinct([first = [], second]: string[][]): boolean {
  const seen = new Set<string>();
  return first.every((text, at) => {
    const row = second === undefined ? text : `${text}\u0000${second[at] ?? ''}`;
    if (seen.has(row)) return false;
    seen.add(row);
    return true;
  });
}

/** Measures tell nothing apart: two records may cost the same. */
const MEASURES = 10;

function rank(field: Field): number {
  const named = IDENTIFYING.indexOf(field.role);
  if (named >= 0) return named;
  return field.type.kind === 'text' ? 5 : field.type.kind === 'link' || field.type.kind === 'moment' ? 6 : MEASURES;
}

function textIn(record: RawRecord, field: Field): string {
  const [locator] = field.locators;
  const found = locator === undefined ? null : record.find(locator);
  return found?.ok ? foldText(found.value.text) : '';
}
