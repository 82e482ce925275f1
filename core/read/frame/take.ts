import type { Body } from '../body';
import { isFound, type Field, type RecordSource, type WatchDefinition } from '../definition';
import { pageFacts, type Document, type Element } from '../html';
import { locate } from '../locator';
import { rawRecords, type RawRecord } from '../records';
import { parseAs } from '../typed';
import { frameAround, frameAt } from './frame';
import { framesOf } from './of-records';
import type { Frame } from './types';

/** Records that are looked at before what stands around them is taken for all. */
const SAMPLED = 60;

/**
 * A definition whose values have their frames, taken from a body where they have none yet. What cannot be found there
 * has none, and is read by the agreement of its ways alone; so are values of formats that name each value themselves.
 */
export function withFrames(body: Body, definition: WatchDefinition): WatchDefinition {
  if (body.format !== 'html') return definition;
  const { document } = body;
  if (definition.records.from === 'page')
    return { ...definition, fields: definition.fields.map((field) => framedOnPage(document, field)) };
  const raw = rawRecords(body, definition.records);
  if (!raw.ok || raw.value.length === 0) return definition;
  const sampled = raw.value.slice(0, SAMPLED);
  return {
    ...definition,
    records: framedRecords(body, definition.records, raw.value),
    fields: definition.fields.map((field) => framedInRecords(sampled, field)),
  };
}

const isFramed = (field: Field) => !isFound(field) || (field.frames !== undefined && field.frames.length > 0);

function framedOnPage(document: Document, field: Field): Field {
  if (isFramed(field)) return field;
  const found = elementOf(document, field);
  return found === undefined ? field : { ...field, frames: [frameAt(document, found, field.type)] };
}

/** Where the first of its ways reads a value; null where only data of the page does, undefined where none does. */
function elementOf(document: Document, { locators, type, locale }: Field): Element | null | undefined {
  const typing = { locale: locale ?? pageFacts(document).locale, address: 'http://relative.example/' };
  const read = locators.flatMap((locator) => {
    const found = locate(document, locator);
    return found.ok && parseAs(type, found.value, typing).ok ? [found.value.elements?.[0] ?? null] : [];
  });
  return read.find((element) => element !== null) ?? read[0];
}

function framedInRecords(records: RawRecord[], field: Field): Field {
  const [locator] = field.locators;
  if (isFramed(field) || locator === undefined) return field;
  const frames = framesOf(records, locator, field.type);
  return frames.length === 0 ? field : { ...field, frames };
}

/** Of a page the records keep what stands around them all. */
export function framedRecords(body: Body, records: RecordSource, [first]: RawRecord[]): RecordSource {
  if (
    body.format !== 'html' ||
    records.from !== 'rows' ||
    records.around !== undefined ||
    first?.scope == null ||
    first.scope.type === 'root'
  )
    return records;
  return { ...records, around: [frameAround(body.document, first.scope)] };
}

/** The frames of a definition that was there before, for what of it is still found in the same ways. */
export function keepFrames(definition: WatchDefinition, before: WatchDefinition): WatchDefinition {
  const fields = definition.fields.map((field): Field => {
    const known = before.fields.find(({ key }) => key === field.key);
    if (known === undefined || !sameWays(known, field)) return field;
    const { frames, allowed, believed, varying } = known;
    return {
      ...field,
      ...(frames === undefined ? {} : { frames }),
      ...(allowed === undefined ? {} : { allowed }),
      ...(believed === undefined ? {} : { believed }),
      ...(varying === undefined ? {} : { varying }),
    };
  });
  return { ...definition, fields, records: keptRecords(definition.records, before.records) };
}

const sameWays = (one: Field, other: Field) =>
  one.type.kind === other.type.kind && JSON.stringify(one.locators) === JSON.stringify(other.locators);

function keptRecords(records: RecordSource, before: RecordSource): RecordSource {
  if (records.from !== 'rows' || before.from !== 'rows' || before.around === undefined) return records;
  const same = records.rows === before.rows && JSON.stringify(records.table) === JSON.stringify(before.table);
  return same ? { ...records, around: before.around } : records;
}

const MOST_SHOWN = 6;

/** A frame in plain words: what a value is there, the nearest first. */
export function describeFrame(frame: Frame): string[] {
  const beside = [frame.before, frame.own, frame.after].filter(Boolean).join(' … ');
  const thing = Object.entries(frame.thing)
    .filter(([of]) => of !== 'itemCondition')
    .map(([, said]) => said);
  const said: [string, string | null][] = [
    ['In the row', frame.row.join(', ') || null],
    ['Under the column', frame.column.join(' › ') || null],
    ['Beside it', beside || null],
    ['Right above it', frame.labelled ? frame.above : null],
    ['Right under it', frame.under !== null && frame.under.length <= 40 ? frame.under : null],
    ['Under', frame.headings.slice(-2).join(' › ') || frame.title],
    ['Known as', [...new Set(thing)].slice(0, 3).join(', ') || null],
    ['Chosen', frame.chosen.slice(0, 4).join(', ') || null],
    [
      'Said of it',
      frame.facts
        .filter(([, , how]) => how === undefined)
        .slice(0, 3)
        .map(([label, fact]) => `${label}: ${fact}`)
        .join('; ') || null,
    ],
  ];
  return said.flatMap(([name, words]) => (words === null ? [] : [`${name}: ${words}`])).slice(0, MOST_SHOWN);
}
