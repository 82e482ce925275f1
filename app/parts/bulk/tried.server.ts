import { createHash } from 'node:crypto';
import { writeCsv } from '#core/items/sheet';
import type { Result } from '#core/result';
import { DOES, type TriedLine } from './tried-line';

/** What a document would do, as it is shown before it is done. */
export interface Tried {
  /** What was sent, for whoever has nothing of it any more; nothing of what is long, which stands in her form still. */
  text: string;
  problem: string | null;
  counts: Record<TriedLine['does'], number>;
  lines: TriedLine[];
  more: number;
  /** Stands for all that its lines would do: it is done only as it was looked through. */
  seal: string;
}

const LONGEST_TEXT = 200_000;
const sentBack = (text: string): string => (text.length > LONGEST_TEXT ? '' : text);

const NOTHING = { adds: 0, changes: 0, nothing: 0, refused: 0 };
const MOST_SHOWN = 200;

/** What could not be looked through at all. */
export const notTried = (text: string, problem: string): Tried => ({
  text: sentBack(text),
  problem,
  counts: NOTHING,
  lines: [],
  more: 0,
  seal: '',
});

/** What every line would do as a file, or why there is none. */
export function linesFile(head: string, lines: Result<readonly TriedLine[], string>): Response {
  if (!lines.ok)
    return new Response(lines.error, { status: 400, headers: { 'content-type': 'text/plain; charset=utf-8' } });
  const rows = ordered(lines.value).map(({ line, name, does, said }) => [
    String(line),
    name,
    DOES[does],
    said.join('; '),
  ]);
  return new Response(writeCsv(['Line', head, 'Would be', 'What'], rows), {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': 'attachment; filename="lines.csv"',
      'x-content-type-options': 'nosniff',
    },
  });
}

const ORDER: TriedLine['does'][] = ['refused', 'changes', 'adds', 'nothing'];

const ordered = (lines: readonly TriedLine[]): TriedLine[] =>
  [...lines].sort((one, other) => ORDER.indexOf(one.does) - ORDER.indexOf(other.does) || one.line - other.line);

/** What lines would do. What is refused comes first: nothing of it may go unseen. */
export function triedOf(text: string, all: readonly TriedLine[], problem: string | null = null): Tried {
  const counts = { ...NOTHING };
  for (const { does } of all) counts[does] += 1;
  const lines = ordered(all)
    .slice(0, MOST_SHOWN)
    .map(({ line, name, does, said }) => ({ line, name, does, said }));
  return { text: sentBack(text), problem, counts, lines, more: all.length - lines.length, seal: sealOf(all) };
}

function sealOf(all: readonly TriedLine[]): string {
  const done = all
    .filter(({ does }) => does === 'adds' || does === 'changes')
    .map(({ line, name, does, said }) => [line, name, does, ...said]);
  return createHash('sha256').update(JSON.stringify(done)).digest('base64');
}

/**
 * What is shown anew where a document would do something else now than she was shown; null where it does that, or has
 * done it already.
 */
export function notAsSeen(tried: Tried, seal: string): Tried | null {
  const isDone = tried.counts.adds + tried.counts.changes === 0;
  return isDone || tried.seal === seal
    ? null
    : { ...tried, problem: 'What this would do is not what it was when you looked: look through it again.' };
}
