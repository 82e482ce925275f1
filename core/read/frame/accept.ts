import { isMeasure, type Value } from '../../value/value';
import type { Field, WatchDefinition } from '../definition';
import { describeLocator } from '../describe';
import { varyingKey } from './changes';
import { DOUBTS, measureWords } from './doubts';
import type { Doubt, Frame, FrameChange } from './types';

/** What was asked of a field, as far as a yes needs it. */
export interface Accepted {
  field: string;
  value: Value;
  changes: FrameChange[];
  frame: Frame | null;
  around: boolean;
}

const MOST_FRAMES = 12;
const MOST_BELIEVED = 8;

/**
 * A definition that takes what was asked for what is followed, from here on: the frame is one of those accepted, a
 * doubtful value is believed. With `always`, what made the value doubtful by itself is not asked about again.
 */
export function accept(definition: WatchDefinition, accepted: Accepted, always: boolean): WatchDefinition {
  const { records } = definition;
  const { frame, around, field: key } = accepted;
  if (around && frame !== null && records.from === 'rows')
    return { ...definition, records: { ...records, around: [frame, ...(records.around ?? [])].slice(0, MOST_FRAMES) } };
  return {
    ...definition,
    fields: definition.fields.map((field) => (field.key === key ? believing(field, accepted, always) : field)),
  };
}

function believing(field: Field, { value, changes, frame }: Accepted, always: boolean): Field {
  const doubts = doubtsIn(changes);
  const varying = [
    ...new Set([...changes.flatMap((change) => varyingKey(change) ?? []), ...(field.varying ?? [])]),
  ].slice(0, MOST_FRAMES);
  const known = { ...field, locators: agreeing(field, changes), ...(varying.length === 0 ? {} : { varying }) };
  const framed = frame === null ? known : { ...known, frames: [frame, ...(field.frames ?? [])].slice(0, MOST_FRAMES) };
  if (!isMeasure(value)) return framed;
  const believed = [measureWords(value), ...(field.believed ?? [])].slice(0, MOST_BELIEVED);
  return {
    ...framed,
    believed,
    ...(always && doubts.length > 0 ? { allowed: [...new Set([...(field.allowed ?? []), ...doubts])] } : {}),
  };
}

/** Ways that said otherwise than what is right are none any more, unless no other would be left. */
function agreeing({ locators }: Field, changes: readonly FrameChange[]): Field['locators'] {
  const against = new Set(changes.flatMap(({ ways = [] }) => ways));
  const left = locators.filter((locator) => !against.has(describeLocator(locator)));
  return left.length === 0 ? locators : left;
}

/** What makes a value doubtful by itself, of all that changed. */
export const doubtsIn = (changes: readonly FrameChange[]): Doubt[] =>
  DOUBTS.filter((doubt) => changes.some(({ part }) => part === doubt));
