import type { Result } from '../../result';
import type { Value } from '../../value/value';
import type { Field, RecordSource, WatchDefinition } from '../definition';
import { describeLocator } from '../describe';
import { describeGuard, type Guard } from '../guard';
import type { Locator } from '../locator';
import type { Proposal } from './propose';

/** A field that is not read any more, or not by all its ways, with where its value seems to be now. */
export interface FieldMending {
  key: string;
  label: string;
  /** Why it is not read; null where it is, by the ways that are left. */
  problem: string | null;
  /** The ways that no longer find it. */
  lost: string[];
  proposal: Result<Proposal, 'nothing like it' | 'several alike'>;
  /** The ways with the mending done: those that still find the place and those that would. */
  locators: Locator[];
}

/** A guard that does not pass, with the one that would and means the same; null where none would. */
export interface GuardMending {
  guard: Guard;
  proposal: Guard | null;
}

/** Where the records of a listing seem to be now. */
interface RowsMending {
  /** The selector of their blocks. */
  rows: string;
  /** The same, with what they are known by. */
  records: RecordSource;
  /** What they are and what speaks for it, in a sentence. */
  said: string;
}

/** How a watch on a page that was built anew could be mended. */
export interface Mending {
  /** Null where the records are where they were. */
  rows: RowsMending | null;
  guards: GuardMending[];
  fields: FieldMending[];
  /** The definition with all of it done; null where something has no proposal. */
  definition: WatchDefinition | null;
  /** What that changes, in sentences. */
  said: string[];
}

/** The last good values of one known record, by field. */
export interface FormerRecord {
  identity: string;
  fields: Record<string, Value>;
}

/** A mending as a whole; null where there is nothing to mend. */
export function mendingOf(
  definition: WatchDefinition,
  { rows, fields, guards }: Pick<Mending, 'rows' | 'fields' | 'guards'>,
): Mending | null {
  if (rows === null && fields.length === 0 && guards.length === 0) return null;
  const whole =
    guards.every(({ proposal }) => proposal !== null) && fields.every(({ locators }) => locators.length > 0);
  const moved = rows === null ? definition : { ...definition, records: rows.records };
  return {
    rows,
    guards,
    fields,
    definition: whole ? mended(moved, fields, guards) : null,
    said: [...(rows === null ? [] : [rows.said]), ...fields.flatMap(sayField), ...guards.flatMap(sayGuard)],
  };
}

function mended(definition: WatchDefinition, fields: FieldMending[], guards: GuardMending[]): WatchDefinition {
  const anew = (field: Field): Field => {
    const mending = fields.find((each) => each.key === field.key);
    return mending === undefined ? field : { ...field, locators: mending.locators, ...acceptedFrames(field, mending) };
  };
  const kept = definition.guards.flatMap((guard) => {
    const mending = guards.find((each) => each.guard === guard);
    return mending === undefined ? guard : (mending.proposal ?? []);
  });
  const distinct = kept.filter(
    (guard, at) => kept.findIndex((other) => JSON.stringify(other) === JSON.stringify(guard)) === at,
  );
  return { ...definition, fields: definition.fields.map(anew), guards: distinct };
}

const MOST_FRAMES = 12;

/** What stands around the proposed place is accepted with it. */
function acceptedFrames({ frames = [] }: Field, { proposal }: FieldMending): Pick<Field, 'frames'> {
  return proposal.ok ? { frames: [...proposal.value.frames, ...frames].slice(0, MOST_FRAMES) } : {};
}

function sayField({ label, lost, locators }: FieldMending): string[] {
  if (locators.length === 0) return [];
  const before = lost.length === 0 ? '' : `; no longer by ${lost.map(lower).join(', ')}`;
  return [`${label}: found by ${locators.map((locator) => lower(describeLocator(locator))).join(', ')}${before}.`];
}

function sayGuard({ guard, proposal }: GuardMending): string[] {
  return proposal === null ? [] : [`Guard: ${lower(describeGuard(proposal))}; before, ${lower(describeGuard(guard))}.`];
}

const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);
