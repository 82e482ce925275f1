import { columnNames, headsOfTable, recordRows } from '../frame/tables';
import { rowsOf } from '../frame/grid';
import { selectElements, type Document, type Element } from '../html';
import { placeOf } from '../pick';
import { rowColumns } from './blocks';
import type { Column, Origin } from './column';

const MOST_TABLES = 40;
const LEAST_ROWS = 3;

/** The tables of a page that have rows enough, their columns by their heads where they have such. */
export function tablesIn(document: Document): Origin[] {
  const tables = selectElements(document, 'table');
  return tables.ok ? tables.value.slice(0, MOST_TABLES).flatMap((table) => tableOrigin(document, table) ?? []) : [];
}

/** A table as a place of records: known by its heads, else by where it stands. Null where it has too few rows. */
export function tableOrigin(document: Document, table: Element, least = LEAST_ROWS): Origin | null {
  const rows = `${placeOf(document, table)} tr:has(td)`;
  const known = headsOfTable(document, table);
  if (known !== null) {
    if (recordRows(table).rows.length < least) return null;
    const columns = columnNames(table).flatMap((column): Column[] =>
      column === null ? [] : [{ label: column.toLowerCase(), locator: { way: 'column', column } }],
    );
    return { records: { from: 'rows', rows, table: known }, columns };
  }
  const own = rowsOf(table).filter((row) => row.children.some((child) => child.type === 'tag' && child.name === 'td'));
  return own.length < least || wideOf(own) < 2
    ? null
    : { records: { from: 'rows', rows }, columns: rowColumns(document, rows) };
}

const wideOf = (rows: Element[]) =>
  Math.max(...rows.map(({ children }) => children.filter((child) => child.type === 'tag').length));
