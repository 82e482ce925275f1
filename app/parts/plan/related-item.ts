import type { ItemSide } from '#core/judge/asked';
import type { Field, FieldType } from '#core/read/definition';
import { isMeasure, type Value } from '#core/value/value';

/**
 * What the item of a record says beside each of its fields now, and the channels of ours that can be named; where it is
 * of none, nothing.
 */
export interface RelatedItem {
  item: { reference: string; name: string } | null;
  says: Record<string, Record<ItemSide, Value>>;
  channels: { id: number; name: string }[];
}

export const NO_ITEM: RelatedItem = { item: null, says: {}, channels: [] };

/** So many other watches are offered at most. */
export const MOST_ELSEWHERE = 300;

/** Another watch, with its fields and what they are now. */
export interface OtherWatch {
  id: number;
  name: string;
  site: string;
  fields: {
    key: string;
    label: string;
    mode: Field['mode'];
    kind: FieldType['kind'];
    scale: string[] | null;
    now: Value | null;
  }[];
}

/** Those of other watches that read numbers, with these alone. */
export const withNumbers = (watches: readonly OtherWatch[]): OtherWatch[] =>
  watches.flatMap((watch) => {
    const fields = watch.fields.filter(({ kind, now }) => NUMERIC.includes(kind) || (now !== null && isMeasure(now)));
    return fields.length === 0 ? [] : [{ ...watch, fields }];
  });

const NUMERIC: FieldType['kind'][] = ['money', 'number', 'computed'];
