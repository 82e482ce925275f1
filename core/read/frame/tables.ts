import { fail, ok, type Result } from '../../result';
import { isTag, type Text } from 'domhandler';
import { selectElements, type Document, type Element } from '../html';
import { keptFor } from '../order';
import { cellsIn, cellText, columnHeads, gridOf, rowsOf } from './grid';
import { linesIn, textsBelow } from './lines';
import type { TableHeads } from './types';
import { plainWords, telling } from './words';

/**
 * The name of each column: its own head where no other column has that, else all its heads; null for one that cannot be
 * told apart.
 */
export const columnNames = keptFor((table: Element): (string | null)[] => {
  const { rows, heads } = gridOf(table);
  if (heads === 0) return [];
  const wide = Math.max(0, ...rows.map((row) => row.length));
  const paths = Array.from({ length: wide }, (_, column) => columnHeads(table, column).filter((head) => head !== ''));
  const own = paths.map((path) => path.at(-1) ?? '');
  const whole = paths.map((path) => path.join(' › '));
  return own.map((name, at) => {
    if (name !== '' && own.indexOf(name) === own.lastIndexOf(name) && (paths[at]?.length ?? 0) < 2) return name;
    const path = whole[at] ?? '';
    return path !== '' && whole.indexOf(path) === whole.lastIndexOf(path) ? path : null;
  });
});

/** What a table is known by; null where it has no heads to be known by. */
export function headsOfTable(document: Document | Element, table: Element): TableHeads | null {
  const heads = columnNames(table).filter((name) => name !== null);
  return heads.length < 2 ? null : { heads, under: headingsOf(document, table) };
}

const LONGEST_HEADING = 160;

function headingsOf(document: Document | Element, table: Element): string[] {
  const { lines, at } = linesIn(document);
  const first = firstText(table, at);
  const under = first === undefined ? [] : (lines[at.get(first) ?? -1]?.under ?? []);
  return under.map(({ text }) => text.slice(0, LONGEST_HEADING));
}

function firstText(table: Element, at: ReadonlyMap<Text, number>): Text | undefined {
  for (const row of rowsOf(table)) {
    const found = textsBelow(row).find((text) => at.has(text));
    if (found !== undefined) return found;
  }
  return undefined;
}

/** Why a table is not found. */
export type TableProblem = { reason: 'no table' } | { reason: 'another heading'; was: string; is: string };

/**
 * The tables that have most of the heads, at least half of them, under the headings that were there before: a list of
 * several pages has one on each.
 */
export function findTables(document: Document | Element, wanted: TableHeads): Result<Element[], TableProblem> {
  const tables = selectElements(document, 'table');
  const known = new Set(wanted.heads.map(plainWords));
  const found = (tables.ok ? tables.value : []).flatMap((table) => {
    const names = columnNames(table).flatMap((name) => (name === null ? [] : plainWords(name)));
    const share = new Set(names.filter((name) => known.has(name))).size / known.size;
    return share >= ENOUGH ? [{ table, share }] : [];
  });
  const most = Math.max(0, ...found.map(({ share }) => share));
  const likely = found.filter(({ share }) => share === most).map(({ table }) => table);
  const same = likely.filter((table) => sameHeadings(headingsOf(document, table), wanted.under));
  const [first] = likely;
  if (first === undefined) return fail({ reason: 'no table' });
  if (same.length > 0) return ok(same);
  return fail({
    reason: 'another heading',
    was: wanted.under.join(' › '),
    is: headingsOf(document, first).join(' › '),
  });
}

const ENOUGH = 0.5;

/** Every heading from before is there still, and the nearest is one of them. */
function sameHeadings(now: string[], before: string[]): boolean {
  const [is, was] = [now, before].map((texts) => texts.map(telling).filter(Boolean));
  return (
    (was ?? []).every((text) => is?.includes(text)) && (is?.length === 0 || was?.includes(is?.at(-1) ?? '') === true)
  );
}

/** Rows that say how the others add up, in the languages that tables are written in. */
const SUM =
  /^(?:(?:sub|grand )?total\p{L}*|sums?|average|mean|median|all|overall|gesamt\p{L}*|summe|zwischensumme|durchschnitt|mittelwert|totaux|moyenne|somme|totale|media|promedio|totaal|gemiddelde|totalt|snitt|合計|平均)(?![\p{L}])/iu;
const ADVERTISED =
  /^(?:sponsored|advertisement|advert|ad|promoted|anzeige|werbung|gesponsert|annonce|publicité|sponsorisé|publicidad|annuncio|advertentie|annons|広告)(?![\p{L}])/iu;

/** A row or a block that is shown for money, and is none of the records. */
export function isAdvertised(element: Element): boolean {
  const { lines } = linesIn(element);
  return lines.some(({ text }) => text.length <= 60 && ADVERTISED.test(text));
}

/**
 * The rows of a table that are records; and what cannot be told to be one: a row that has more or fewer cells than the
 * head.
 */
export function recordRows(table: Element): { rows: Element[]; odd: Element[] } {
  const { heads } = gridOf(table);
  const wide = columnNames(table).length;
  const kept: { rows: Element[]; odd: Element[] } = { rows: [], odd: [] };
  for (const [at, row] of rowsOf(table).entries()) {
    if (at < heads || isPassed(row)) continue;
    const cells = new Set(gridOf(table).rows[at] ?? []);
    cells.delete(null);
    if (cells.size === wide && isWhole(row)) kept.rows.push(row);
    else if (cells.size > 1) kept.odd.push(row);
  }
  return kept;
}

/** Nothing in it spans several columns. */
const isWhole = (row: Element) => cellsIn(row).every(({ attribs }) => (Number(attribs.colspan) || 1) === 1);

/** Heads said again, the foot, sums, advertisements, and headings across. */
function isPassed(row: Element): boolean {
  const cells = cellsIn(row);
  if (cells.length < 2 || cells.every(({ name }) => name === 'th')) return true;
  if (row.parent !== null && isTag(row.parent) && row.parent.name === 'tfoot') return true;
  const [first] = cells.map(cellText).filter((text) => text !== '');
  return first === undefined || SUM.test(first) || isAdvertised(row);
}
