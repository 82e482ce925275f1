import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Papa from 'papaparse';
import { beforeAll, expect, inject, it } from 'vitest';
import type { Sheet } from '#core/value/cell';
import { sheetFile } from '#server/files/sheet-file';

// Workbooks as another program opens them: LibreOffice, from Debian.

const HOSTILE = [
  '=1+1',
  '+1',
  '-1+2',
  '@SUM(A1)',
  '=cmd|"/c calc"!A1',
  '\t=1',
  'Zoë’s "jars"; 227 g',
  'two\nlines',
  '山田',
  '\u0000\uffffx',
];
const SHEET: Sheet = {
  columns: [
    { head: 'name', is: 'text' },
    { head: '=2+2', is: 'text' },
    { head: 'now', is: 'amount' },
    { head: 'seen', is: 'moment' },
  ],
  rows: HOSTILE.map((text, at) => [
    text,
    `'${text}`,
    at === 0 ? '12345678901234567890.12' : `${at}.50`,
    '2026-11-29T07:30:00.000Z',
  ]),
};
const NAMES = ['Pricing, daily', "'quoted'", 'History', '[a]:*?/\\', '='.repeat(40)];

let opened: string[][][];
beforeAll(async () => {
  const folder = mkdtempSync(join(inject('scratch'), 'books-'));
  const files = NAMES.map((_, at) => join(folder, `${at}.xlsx`));
  for (const [at, name] of NAMES.entries()) writeFileSync(files[at] ?? '', await sheetFile('xlsx', SHEET, name));
  const words = [
    `-env:UserInstallation=file://${folder}/profile`,
    '--headless',
    '--convert-to',
    'csv:Text - txt - csv (StarCalc):44,34,76',
    '--outdir',
    folder,
  ];
  execFileSync('soffice', [...words, ...files], { stdio: 'ignore', timeout: 110_000 });
  opened = NAMES.map(
    (_, at) => Papa.parse<string[]>(readFileSync(join(folder, `${at}.csv`), 'utf8'), { skipEmptyLines: true }).data,
  );
});

it('open whatever the report is called, with every row', () => {
  expect(opened.map((rows) => rows.length)).toEqual(NAMES.map(() => HOSTILE.length + 1));
});

it('hold what was read as words, and run none of it', () => {
  const [rows = []] = opened;
  expect(rows[0]).toEqual(['name', '=2+2', 'now', 'seen']);
  const said = HOSTILE.map((text) => text.replace(/[\u0000\uffff]/g, ''));
  expect(rows.slice(1).map(([name]) => name)).toEqual(said);
  expect(rows.slice(1).map(([, second]) => second)).toEqual(said.map((text) => `'${text}`));
});

it('hold amounts as they were written, and moments as moments', () => {
  const [rows = []] = opened;
  expect(rows[1]?.[2]).toBe('12345678901234567890.12');
  expect(rows[2]?.slice(2)).toEqual(['1.5', '2026-11-29 07:30:00']);
});
