import { selectElements, type Document, type Element } from '../html';
import { keptFor } from '../order';
import { columnHeads, gridOf, rowHeads } from './grid';
import { onlyMoves, plainWords } from './words';

/** The heads by which a cell is found again. */
export interface CellHeads {
  row: string[];
  column: string[];
}

/** The heads of a cell that say which one it is: those of its row that only move by themselves are left out. */
export function headsOfCell(place: { table: Element; row: number; column: number }): CellHeads {
  const row = rowHeads(place).filter((head, at) => at === 0 || !onlyMoves(plainWords(head)));
  return { row, column: columnHeads(place.table, place.column) };
}

/** Every cell in a scope whose row and column have these heads. */
export function cellsUnder(scope: Document | Element, wanted: CellHeads): Element[] {
  const key = keyOf(wanted);
  return tablesIn(scope).flatMap((table) => cellsByHeads(table).get(key) ?? []);
}

const tablesIn = keptFor((scope: Document | Element): Element[] => {
  const found = selectElements(scope, 'table');
  return found.ok ? found.value : [];
});

const MOST_CELLS = 4_000;

/** The cells of a table by the heads of their row and column. Of very large ones none: they are listings. */
const cellsByHeads = keptFor((table: Element): ReadonlyMap<string, Element[]> => {
  const { rows, heads } = gridOf(table);
  const found = new Map<string, Element[]>();
  if (rows.length * (rows[0]?.length ?? 0) > MOST_CELLS) return found;
  for (const [row, cells] of rows.entries()) {
    if (row < heads) continue;
    for (const [column, cell] of cells.entries()) {
      if (cell == null || cells.indexOf(cell) !== column || rows[row - 1]?.[column] === cell) continue;
      const key = keyOf(headsOfCell({ table, row, column }));
      found.set(key, [...(found.get(key) ?? []), cell]);
    }
  }
  return found;
});

const keyOf = ({ row, column }: CellHeads) => JSON.stringify([row.map(plainWords), column.map(plainWords)]);
