import Papa from 'papaparse';
import { parseCsv } from '../read/formats/csv';
import { fail, ok, type Result } from '../result';
import type { Sheet } from '../value/cell';
import { blankItem, cellText, CHANNEL_PARTS, PROPERTIES, withCell, type Cell, type Item } from './item';

/** The columns of a sheet of items: those of every item, and for each channel three more. */
export function columnsOf(channels: readonly string[]): { head: string; cell: Cell }[] {
  return [
    ...PROPERTIES.map((of) => ({ head: of, cell: { of } })),
    { head: 'agreed minimum', cell: { of: 'minimum' } },
    ...channels.flatMap((channel) =>
      CHANNEL_PARTS.map((of) => ({ head: `${of} at ${channel}`, cell: { of, channel } })),
    ),
  ];
}

/**
 * Items as CSV (RFC 4180). No cell of it is run by a program that opens it: what would be a formula bears an apostrophe
 * before it.
 */
export function writeSheet(items: readonly Item[], channels: readonly string[]): string {
  const columns = columnsOf(channels);
  return writeCsv(
    columns.map(({ head }) => head),
    items.map((item) => columns.map(({ cell }) => cellText(item, cell))),
  );
}

/** A table as CSV, with lines that end as RFC 4180 says, and what could be run as a formula defused. */
export const writeCsv = (heads: string[], rows: string[][]): string =>
  `${Papa.unparse(
    [heads, ...rows].map((row) => row.map(defused)),
    { newline: '\r\n' },
  )}\r\n`;

/** The same of a table whose columns are described. */
export const sheetCsv = ({ columns, rows }: Sheet): string =>
  writeCsv(
    columns.map(({ head }) => head),
    rows.map((row) => row.map(String)),
  );

/**
 * Where a program that opens a table could take what follows for a formula: at the beginning of a cell, and after what
 * it may take for the end of one. A number below nought runs nothing.
 */
const BEGINS = '(^|[;\\t\\r\\n])';
const RUNS = '(?=[=+\\-@＝＋－＠])(?!-\\d+(?:\\.\\d+)?(?:[;\\t\\r\\n]|$))';
const RUN = new RegExp(`${BEGINS}('*)${RUNS}`, 'gu');
const KEPT_FROM_RUNNING = new RegExp(`${BEGINS}'('*)${RUNS}`, 'gu');
/** Some programs pass over what a cell begins with here, and run what follows. */
const PASSED_OVER = /^(?='*[\t\r])/u;
/** A cell of which nothing is run: one more apostrophe stands before what would be. */
export const defused = (text: string): string => text.replace(RUN, "$1$2'").replace(PASSED_OVER, "'");
/** A cell as it was before it was defused. */
export const undefused = (text: string): string =>
  text.replace(/^'(?='*[\t\r])/u, '').replace(KEPT_FROM_RUNNING, '$1$2');

/** What one line of a sheet would do. */
export interface SheetLine {
  /** Its number in the file; that of the head is 1. */
  line: number;
  reference: string;
  does: 'adds' | 'changes' | 'nothing' | 'refused';
  /** What it changes, or why it is refused. */
  said: string[];
  /** The item as it would be; null where the line is refused. */
  item: Item | null;
}

const MOST_SAID = 12;

/**
 * What a sheet would do, line by line: nothing of it is done yet. Columns are known by their heads; those that are left
 * out stay as they are, and an empty cell empties. A line that cannot be read is refused with a sentence, and the
 * others are not.
 */
export function readSheet(
  text: string,
  known: readonly Item[],
  channels: readonly string[],
  locale: string,
): Result<SheetLine[], string> {
  const table = parseCsv(text);
  if (!table.ok) return table;
  const heads = headsIn(table.value.columns, channels);
  if (!heads.ok) return heads;
  const byReference = new Map(known.map((item) => [item.reference.toLowerCase(), item]));
  const seen = new Map<string, number>();
  const at = heads.value.findIndex((cell) => cell.of === 'reference');
  return ok(
    table.value.rows.map((row, index): SheetLine => {
      const line = index + 2;
      const reference = undefused(row[at] ?? '').trim();
      const refused = (...said: string[]): SheetLine => ({ line, reference, does: 'refused', said, item: null });
      if (reference === '') return refused('It has no reference.');
      const before = seen.get(reference.toLowerCase());
      if (before !== undefined) return refused(`Line ${before} has the same reference.`);
      seen.set(reference.toLowerCase(), line);
      const present = byReference.get(reference.toLowerCase()) ?? null;
      const read = itemOf(row, heads.value, present ?? blankItem(reference), locale);
      if (!read.ok) return refused(...read.error);
      const said = present === null ? [] : differences(present, read.value);
      return {
        line,
        reference,
        does: present === null ? 'adds' : said.length === 0 ? 'nothing' : 'changes',
        said,
        item: read.value,
      };
    }),
  );
}

function headsIn(columns: string[], channels: readonly string[]): Result<Cell[], string> {
  const known = new Map(columnsOf(channels).map(({ head, cell }) => [head.toLowerCase(), cell]));
  const cells = columns.map((head) => known.get(head.trim().toLowerCase()));
  const strange = columns.filter((_, at) => cells[at] === undefined);
  if (strange.length > 0) {
    const few = strange
      .slice(0, 3)
      .map((head) => `“${head.slice(0, 60)}”`)
      .join(', ');
    return fail(
      `The first line is to hold the names of columns, and ${few} is none of them. They are: ` +
        `${[...known.keys()].join(', ')}.`,
    );
  }
  const found = cells as Cell[];
  return found.some(({ of }) => of === 'reference')
    ? ok(found)
    : fail('There is no column “reference”, by which items are known.');
}

function itemOf(row: string[], cells: Cell[], from: Item, locale: string): Result<Item, string[]> {
  const troubles: string[] = [];
  let item = from;
  for (const [at, cell] of cells.entries()) {
    const next = withCell(item, cell, undefused(row[at] ?? ''), locale);
    if (next.ok) item = next.value;
    else troubles.push(next.error);
  }
  return troubles.length === 0 ? ok(item) : fail(troubles.slice(0, MOST_SAID));
}

/** What sets an item apart from what it was, in words: `name: Smoker → Copper smoker`. */
export function differences(before: Item, after: Item): string[] {
  const channels = [...new Set([...Object.keys(before.listings), ...Object.keys(after.listings)])];
  return columnsOf(channels).flatMap(({ head, cell }) => {
    const [was, is] = [cellText(before, cell), cellText(after, cell)];
    return was === is ? [] : `${head}: ${was === '' ? 'nothing' : was} → ${is === '' ? 'nothing' : is}`;
  });
}
