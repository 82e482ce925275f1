import type { Line } from '#core/tell/edition/lines';
import type { PresentValue } from '#core/tell/edition/gathered';
import { editionRows, presentSheet, rowsSheet, type SheetRow } from '#core/tell/edition/sheet';
import { FILE_FORMS, type FileForm } from '#core/tell/definition';
import type { Instant } from '#core/when/interval';
import { sheetFile } from './sheet-file';

/** What a file says it is of. */
interface FileOf {
  report: string;
  edition: number | null;
  from: Instant;
  until: Instant;
  /** Values as they stood, where those are shown instead of lines. */
  present?: readonly PresentValue[] | undefined;
}

/** What programs call the forms of files. */
export const FILE_TYPES: Record<FileForm, string> = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  json: 'application/json; charset=utf-8',
};

/** A name as files bear it everywhere. */
export const fileName = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .replace(/[^A-Za-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 60)
    .toLowerCase() || 'report';

/** Every line of an edition as a file, as its rows, or the values that it shows as they stood. */
export async function editionFile(
  form: FileForm,
  rows: readonly SheetRow[],
  { report, edition, from, until, present }: FileOf,
): Promise<Buffer> {
  const of = { report, edition, covers: { from: new Date(from).toISOString(), until: new Date(until).toISOString() } };
  if (present !== undefined) return sheetFile(form, presentSheet(present), report, of);
  if (form !== 'json') return sheetFile(form, rowsSheet(rows), report);
  return Buffer.from(JSON.stringify({ ...of, lines: rows }, null, 1));
}

/** What a mail bears of files, in all; what is larger is read in the app. */
const MOST_BYTES = 7_000_000;

/** The files of an edition that its mails can bear, and which are too large for that. */
export async function filesOf(
  forms: readonly FileForm[],
  lines: readonly Line[],
  of: FileOf,
): Promise<{ files: { form: FileForm; body: Buffer }[]; tooLarge: FileForm[] }> {
  const files: { form: FileForm; body: Buffer }[] = [];
  const tooLarge: FileForm[] = [];
  const rows = forms.length === 0 ? [] : editionRows(lines);
  let left = MOST_BYTES;
  for (const form of FILE_FORMS.filter((each) => forms.includes(each))) {
    const body = await editionFile(form, rows, of);
    if (body.length > left) tooLarge.push(form);
    else {
      files.push({ form, body });
      left -= body.length;
    }
  }
  return { files, tooLarge };
}
