import type { SheetLine } from '#core/items/sheet';
import { fail, ok, type Result } from '#core/result';
import { listChannels, listItems, type ItemEdit, type ItemNow } from '#server/db/item/items';
import { bodyOf, describeTaskProblem } from '#server/reading/pool';
import type { TriedLine } from '../../parts/bulk/tried-line';
import { notTried, triedOf, type Tried } from '../../parts/bulk/tried.server';
import { services } from '../../services.server';

const MOST_ITEMS = 50_000;
const MOST_EDITS = 10_000;
/** How large a sheet of items may be, in bytes. */
export const MOST_SHEET = 20_000_000;

/** What a sheet would do to the items that there are. */
export async function lookThrough(
  db: Parameters<typeof listItems>[0],
  text: string,
  locale: string,
): Promise<{ tried: Tried; lines: Result<TriedLine[], string>; edits: ItemEdit[] }> {
  const channels = (await listChannels(db)).map(({ name }) => name);
  const known = await listItems(db, { words: '', after: '', most: MOST_ITEMS });
  const body = bodyOf(text);
  const done = await services().reading.run('sheet', { key: body.key, known, channels, locale }, [body]);
  const read = done.ok ? done.value : fail(describeTaskProblem(done.error, 'this file'));
  if (!read.ok) return { tried: notTried(text, read.error), lines: read, edits: [] };
  const edits = editsOf(read.value, known);
  const problem =
    edits.length > MOST_EDITS
      ? `At most ${MOST_EDITS.toLocaleString(locale)} items are added and changed at once: split the file.`
      : null;
  const lines = read.value.map((line) => ({ ...line, name: line.reference }));
  return { tried: triedOf(text, lines, problem), lines: ok(lines), edits };
}

function editsOf(lines: SheetLine[], known: ItemNow[]): ItemEdit[] {
  const byReference = new Map(known.map((item) => [item.reference.toLowerCase(), item]));
  return lines.flatMap(({ does, item, reference }) => {
    if (item === null || does === 'nothing') return [];
    const before = byReference.get(reference.toLowerCase()) ?? null;
    return [{ id: before?.id ?? null, before, after: item }];
  });
}
