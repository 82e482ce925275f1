import type { ItemSide } from '#core/judge/clause';
import type { Value } from '#core/value/value';

/** What the item of a record says beside each of its fields now, and the channels of ours that can be named; where it is of none, nothing. */
export interface BesideItem {
  item: { reference: string; name: string } | null;
  says: Record<string, Record<ItemSide, Value>>;
  channels: { id: number; name: string }[];
}

export const NO_ITEM: BesideItem = { item: null, says: {}, channels: [] };

/** So many other watches are offered at most. */
export const MOST_ELSEWHERE = 300;

/** Another watch, with those of its fields that are numbers. */
export interface OtherWatch {
  id: number;
  name: string;
  site: string;
  fields: { key: string; label: string }[];
}
