import { isTag } from 'domhandler';
import { selectElements, type Document, type Element } from '../html';
import { cellsOf, headsOf } from '../locator';
import { placeOf } from '../pick';
import { rowColumns } from './blocks';
import type { Column, Origin } from './column';

const MOST_TABLES = 40;

/** The tables of a page that have rows enough, their columns by their heads where each has one of its own. */
export function tablesIn(document: Document): Origin[] {
  const tables = selectElements(document, 'table');
  if (!tables.ok) return [];
  return tables.value.slice(0, MOST_TABLES).flatMap((table) => {
    const heads = headsOf(table);
    const rows = `${placeOf(document, table)} tr:has(td)`;
    const found = selectElements(document, rows);
    if (!found.ok || found.value.length < 3 || heads.length < 2) return [];
    const named = isHeaded(table) && new Set(heads).size === heads.length && heads.every((head) => head !== '');
    const columns = named
      ? heads.map((column): Column => ({ label: column.toLowerCase(), locator: { way: 'column', column } }))
      : rowColumns(document, rows);
    return [{ records: { from: 'rows', rows } as const, columns }];
  });
}

/** Whether a table says which of its rows is its head. */
function isHeaded(table: Element): boolean {
  const [thead, rows] = ['thead', 'tr'].map((name) => selectElements(table, name));
  if (thead?.ok && thead.value.length > 0) return true;
  const isHead = (row: Element) => cellsOf(row).some((cell) => cell.name === 'th');
  return rows?.ok === true && rows.value.some((row) => isHead(row) && followedByRow(row));
}

function followedByRow(row: Element): boolean {
  for (let at = row.next; at !== null; at = at.next) if (isTag(at) && at.name === 'tr') return true;
  return false;
}
