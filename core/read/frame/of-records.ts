import type { FieldType } from '../definition';
import type { Element } from '../html';
import type { Locator } from '../locator';
import type { RawRecord } from '../records';
import { ANY } from './changes';
import { frameAt } from './frame';
import type { Frame } from './types';

const MOST_FRAMES = 12;
const PARTS = ['before', 'own', 'after', 'bare', 'above', 'under'] as const;

/**
 * What stands around a field in each of several records of a page, each kind once. Words that one record alone has are
 * its own, its name or its description, and may be any: they are asked only for what changes a number's sense. Empty
 * for other formats.
 */
export function framesOf(records: RawRecord[], locator: Locator, type: FieldType): Frame[] {
  const found = records.flatMap((record) => {
    const element = elementIn(record, locator);
    return element === null || record.scope === null ? [] : [frameAt(record.scope, element, type)];
  });
  const counts = new Map(PARTS.map((part) => [part, countsOf(found.map((frame) => frame[part] ?? ''))]));
  const shared = (frame: Frame, part: (typeof PARTS)[number]) =>
    found.length < 2 || (counts.get(part)?.get(frame[part] ?? '') ?? 0) > 1;
  const general = found.map((frame) => ({
    ...frame,
    ...Object.fromEntries(PARTS.flatMap((part) => (shared(frame, part) ? [] : [[part, ANY]]))),
  }));
  return [...new Map(general.map((frame) => [JSON.stringify(frame), frame])).values()].slice(0, MOST_FRAMES);
}

function elementIn(record: RawRecord, locator: Locator): Element | null {
  const found = record.scope === null ? null : record.find(locator);
  return found?.ok ? (found.value.elements?.[0] ?? null) : null;
}

function countsOf(texts: string[]): Map<string, number> {
  const counts = new Map<string, number>();
  for (const text of texts) counts.set(text, (counts.get(text) ?? 0) + 1);
  return counts;
}
