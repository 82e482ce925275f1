declare const kind: unique symbol;

/** The number of a row, of which kind the compiler knows: one of a rule is never taken for one of a watch. */
type Id<Kind extends string> = number & { readonly [kind]: Kind };

export type WatchId = Id<'watch'>;
export type RuleId = Id<'rule'>;
export type RecordId = Id<'record'>;
export type SeriesId = Id<'series'>;
