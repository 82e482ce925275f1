import { isTag } from 'domhandler';
import { parsePrice, parseQuantity } from '../../value/parse';
import { shortText, type Element } from '../html';
import { keptFor } from '../order';

/** A table as it is seen: the cell at each place, one that spans several at all of them. */
export interface Grid {
  rows: (Element | null)[][];
  /** How many of its first rows are heads. */
  heads: number;
}

const MOST_CELLS = 40_000;
const MOST_SPAN = 200;

/**
 * The grid of a table by the HTML table model (WHATWG HTML, 4.9.12), spans resolved, tables inside of its cells left
 * out.
 */
export const gridOf = keptFor((table: Element): Grid => {
  const rows: (Element | null)[][] = [];
  const trs = rowsOf(table);
  let cells = 0;
  for (const [y, row] of trs.entries()) {
    const line = (rows[y] ??= []);
    let x = 0;
    for (const cell of cellsIn(row)) {
      while (line[x] !== undefined) x += 1;
      const [wide, high] = [span(cell, 'colspan'), Math.min(span(cell, 'rowspan'), trs.length - y)];
      cells += wide * high;
      if (cells > MOST_CELLS) return { rows, heads: headRows(rows) };
      fill(rows, cell, { x, y, wide, high });
      x += wide;
    }
  }
  return { rows, heads: headRows(rows) };
});

function fill(
  rows: (Element | null)[][],
  cell: Element,
  { x, y, wide, high }: { x: number; y: number; wide: number; high: number },
): void {
  for (let down = 0; down < high; down += 1) {
    const line = (rows[y + down] ??= []);
    for (let right = 0; right < wide; right += 1) line[x + right] = cell;
  }
}

/** The rows of a table itself, in the order in which they are shown. */
export const rowsOf = keptFor((table: Element): Element[] => {
  const own = table.children.filter(isTag);
  const rows = own.flatMap((child) =>
    child.name === 'tr' ? [child] : /^t(head|body|foot)$/.test(child.name) ? child.children.filter(isTag) : [],
  );
  return rows.filter(({ name }) => name === 'tr');
});

const rowNumbers = keptFor((table: Element) => new Map(rowsOf(table).map((row, at) => [row, at])));

/** The cell of a row that stands in a column; none where there is none. */
export function cellIn(table: Element, row: Element, column: number): Element | null {
  return gridOf(table).rows[rowNumbers(table).get(row) ?? -1]?.[column] ?? null;
}

/** The cells of a row itself. */
export const cellsIn = (row: Element): Element[] =>
  row.children.filter((child): child is Element => isTag(child) && (child.name === 'td' || child.name === 'th'));

const LONGEST = 160;
/** What a cell says, the beginning of it. */
export const cellText = (cell: Element): string => (shortText(cell) ?? '').slice(0, LONGEST);

const span = (cell: Element, name: 'colspan' | 'rowspan') =>
  Math.min(Math.max(Number.parseInt(cell.attribs[name] ?? '1', 10) || 1, 1), MOST_SPAN);

/**
 * The first rows that are all heads: `th`, or in a `thead`, or the first of a table whose cells below are numbers where
 * it has words.
 */
function headRows(rows: (Element | null)[][]): number {
  let count = 0;
  while (count < rows.length && isHead(rows[count] ?? [])) count += 1;
  if (count > 0 || rows.length < 2) return count === rows.length ? 0 : count;
  const [first = [], ...others] = rows;
  const wide = first.length > 2 && first.every((cell) => cell !== null && !isNumber(cellText(cell)));
  return wide && others.some((row) => row.some((cell) => cell != null && isNumber(cellText(cell)))) ? 1 : 0;
}

/** One cell across the whole of it heads what follows, and no column. */
const isHead = (row: (Element | null)[]) =>
  row.length > 1 &&
  (new Set(row).size > 1 || row[0]?.parent == null || !isTag(row[0].parent) || inHead(row[0].parent)) &&
  row.every(
    (cell) =>
      cell === null || cell.name === 'th' || (cell.parent !== null && isTag(cell.parent) && inHead(cell.parent)),
  );
const inHead = (row: Element) => row.parent !== null && isTag(row.parent) && row.parent.name === 'thead';

/** Whether a cell shows a number, a sum, a share, or nothing, rather than words. */
function isNumber(text: string): boolean {
  if (!/\p{L}/u.test(text)) return /\d/.test(text) ? !/\d\s*[-–—/]\s*\d/.test(text) : true;
  return (
    text.length <= 40 &&
    /\d/.test(text) &&
    (parsePrice(text, { locale: 'en', currency: null }).ok || parseQuantity(text, { locale: 'en' }).ok)
  );
}

/** Where a cell stands in its table. */
export interface GridPlace {
  cell: Element;
  table: Element;
  row: number;
  column: number;
}

/** The cell that an element stands in and where that is; null outside of tables that show data. */
export function gridPlace(element: Element): GridPlace | null {
  for (let at: Element | null = element; at !== null; at = above(at)) {
    if (at.name !== 'td' && at.name !== 'th') continue;
    const table = tableAbove(at);
    const place = table === null ? null : placeIn(table, at);
    if (place !== null) return place;
  }
  return null;
}

const above = (element: Element) => (element.parent !== null && isTag(element.parent) ? element.parent : null);

/** The table that an element stands in; null for none. */
export function tableAbove(element: Element): Element | null {
  for (let at = above(element); at !== null; at = above(at)) if (at.name === 'table') return at;
  return null;
}

/** A cell that holds a good part of the page is no cell of data. */
function placeIn(table: Element, cell: Element): GridPlace | null {
  const { rows } = gridOf(table);
  if (rows.length * (rows[0]?.length ?? 0) < 2 || shortText(cell) === null) return null;
  const place = placesIn(table).get(cell);
  return place === undefined ? null : { cell, table, ...place };
}

/** Where each cell of a table begins. */
const placesIn = keptFor((table: Element): ReadonlyMap<Element, { row: number; column: number }> => {
  const places = new Map<Element, { row: number; column: number }>();
  for (const [row, cells] of gridOf(table).rows.entries())
    for (const [column, cell] of cells.entries())
      if (cell != null && !places.has(cell)) places.set(cell, { row, column });
  return places;
});

/** The heads above a column, the outermost first; one that spans several rows once. */
export const columnHeads = (table: Element, column: number): string[] => headsByColumn(table)[column] ?? NO_HEADS;

const NO_HEADS: string[] = [];

const headsByColumn = keptFor((table: Element): string[][] => {
  const { rows, heads } = gridOf(table);
  const wide = Math.max(0, ...rows.slice(0, heads).map((row) => row.length));
  return Array.from({ length: wide }, (_, column) => headsAbove(rows, heads, column));
});

function headsAbove(rows: (Element | null)[][], heads: number, column: number): string[] {
  const cells = rows.slice(0, heads).map((row) => row[column] ?? null);
  return cells
    .filter((cell, at) => cell !== null && cells.indexOf(cell) === at)
    .map((cell) => cellText(cell as Element));
}

/** What says which row it is: its cells that are no numbers, and its first one where that is no mere count. */
export function rowHeads({ table, row, column }: Omit<GridPlace, 'cell'>): string[] {
  const { rows, heads } = gridOf(table);
  const cells = row < heads ? [] : (rows[row] ?? []);
  const distinct = cells.filter(
    (cell, at): cell is Element =>
      cell !== null && at !== column && cells.indexOf(cell) === at && cell !== cells[column],
  );
  const texts = distinct.map((cell) => cellText(cell));
  const worded = texts.filter((text) => text !== '' && !isNumber(text));
  const [first] = texts;
  const leads =
    column > 0 &&
    first !== undefined &&
    first !== '' &&
    (worded.length === 0 || /\p{L}/u.test(first)) &&
    !worded.includes(first);
  return leads ? [first, ...worded] : worded;
}
