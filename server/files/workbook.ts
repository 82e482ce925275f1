import ExcelJS from 'exceljs';
import type { Sheet } from '#core/value/cell';
import { cut } from '#core/value/sanitise';

const DAY_FORMAT = 'yyyy-mm-dd hh:mm:ss';
const WIDEST = 60;
/** A cell holds no more (ECMA-376, Excel’s own limit). */
const LONGEST_CELL = 32_767;

/**
 * A sheet as a workbook (Office Open XML). Text is text whatever it looks like, so that no cell is a formula; an amount
 * is a number where a double holds it exactly as it is written, and text otherwise; moments are in UTC.
 */
export async function workbookOf({ columns, rows }: Sheet, name: string): Promise<Buffer> {
  const book = new ExcelJS.Workbook();
  const sheet = book.addWorksheet(sheetName(name), { views: [{ state: 'frozen', ySplit: 1 }] });
  sheet.columns = columns.map(({ head }) => ({ header: head, width: Math.min(WIDEST, Math.max(10, head.length + 2)) }));
  sheet.getRow(1).font = { bold: true };
  for (const row of rows) sheet.addRow(row.map((value, place) => cellOf(value, columns[place]?.is ?? 'text')));
  columns.forEach(({ is }, place) => {
    if (is === 'moment') sheet.getColumn(place + 1).numFmt = DAY_FORMAT;
  });
  return Buffer.from(await book.xlsx.writeBuffer());
}

const LONGEST_NAME = 31;

/**
 * A name as a sheet can bear it (Office Open XML, as its programs take it): without some signs, without quotes at its
 * ends, and not 'History'.
 */
function sheetName(name: string): string {
  const sound = cut(name.replace(NOT_XML, '').replace(/[\\/?*[\]:]/g, ' '), LONGEST_NAME).replace(
    /^['\s]+|['\s]+$/g,
    '',
  );
  return sound === '' || sound.toLowerCase() === 'history' ? 'Edition' : sound;
}

function cellOf(value: string | number, is: Sheet['columns'][number]['is']): string | number | Date | null {
  if (value === '') return null;
  if (typeof value === 'number') return value;
  if (is === 'moment') return new Date(value);
  return is === 'amount' && isExact(value) ? Number(value) : value.slice(0, LONGEST_CELL).replace(NOT_XML, '');
}

/** Whether a double says a decimal as it is written, but for noughts at its end. */
const isExact = (amount: string): boolean =>
  /^-?\d{1,15}(\.\d+)?$/.test(amount) &&
  Number(amount).toString() === amount.replace(/(\.\d*?)0+$/, '$1').replace(/\.$/, '');

/** What an XML document cannot hold (XML 1.0, 2.2). */
const NOT_XML = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g;
