import { sheetCsv } from '#core/items/sheet';
import type { FileForm } from '#core/tell/definition';
import type { Sheet } from '#core/value/cell';
import { workbookOf } from './workbook';

/** The rows of a table as objects that bear the heads of their columns. */
const objectsOf = ({ columns, rows }: Sheet): Record<string, string | number>[] =>
  rows.map((row) => Object.fromEntries(columns.map(({ head }, place) => [head, row[place] ?? ''])));

/**
 * A table as a file: in CSV what could be run as a formula is defused, in JSON its rows stand under `rows`, beside what
 * the file is `of`.
 */
export async function sheetFile(form: FileForm, sheet: Sheet, name: string, of: object = { name }): Promise<Buffer> {
  if (form === 'xlsx') return workbookOf(sheet, name);
  return Buffer.from(form === 'csv' ? sheetCsv(sheet) : JSON.stringify({ ...of, rows: objectsOf(sheet) }, null, 1));
}
