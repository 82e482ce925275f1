import { writeCsv } from '#core/items/sheet';
import type { FileForm } from '#core/tell/standing-order';
import type { Sheet } from '#core/value/cell';
import { workbookOf } from './workbook';

/** A table as a file: in CSV what could be run as a formula is defused, in JSON each row bears the heads of its columns. */
export async function sheetFile(form: FileForm, sheet: Sheet, name: string): Promise<Buffer> {
  const { columns, rows } = sheet;
  if (form === 'xlsx') return workbookOf(sheet, name);
  if (form === 'csv') return Buffer.from(writeCsv(columns.map(({ head }) => head), rows.map((row) => row.map(String)))); // prettier-ignore
  const objects = rows.map((row) => Object.fromEntries(columns.map(({ head }, place) => [head, row[place] ?? ''])));
  return Buffer.from(JSON.stringify({ name, rows: objects }, null, 1));
}
