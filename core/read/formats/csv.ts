import Papa from 'papaparse';
import { fail, ok, type Result } from '../../result';

/** A table of text, its dialect found out. */
export interface CsvBody {
  format: 'csv';
  delimiter: string;
  /** The names of the columns: of its first row, or `column 1` and on where that row holds data. */
  columns: string[];
  rows: string[][];
}

const MOST_ROWS = 50_000;
const MOST_COLUMNS = 500;
const DATA = /^[\s\d.,+\-%€£$:/T]*\d[\s\d.,+\-%€£$:/TZ]*$/;

/**
 * Reads CSV (RFC 4180 and its many dialects): the delimiter is found out, quotes are honoured, empty lines passed over.
 */
export function parseCsv(text: string): Result<CsvBody, string> {
  const parsed = Papa.parse<string[]>(text.replace(/^\uFEFF/, '').replace(/^sep=(.)\r?\n/, ''), {
    skipEmptyLines: 'greedy',
    delimitersToGuess: [',', ';', '\t', '|'],
    preview: MOST_ROWS + 2,
  });
  const rows = parsed.data;
  const [first] = rows;
  if (first === undefined) return fail('This table has no rows.');
  if (rows.length > MOST_ROWS + 1) return fail(`This table has more than ${MOST_ROWS.toLocaleString('en')} rows.`);
  if (first.length > MOST_COLUMNS) return fail(`This table has more than ${MOST_COLUMNS} columns.`);
  if (parsed.errors.some((error) => error.type === 'Quotes')) return fail('A quoted text in this table does not end.');
  const header = first.every((cell) => cell.trim() !== '' && !DATA.test(cell)) && new Set(first).size === first.length;
  const columns = header ? first.map((cell) => cell.trim()) : first.map((_, at) => `column ${at + 1}`);
  return ok({ format: 'csv', delimiter: parsed.meta.delimiter, columns, rows: header ? rows.slice(1) : rows });
}
