/** Beyond it no row is numbered. */
export const LARGEST = 2_147_483_647;

declare const kind: unique symbol;

/** The number of a row, of which kind the compiler knows: one of a rule is never taken for one of a watch. */
type Id<Kind extends string> = number & { readonly [kind]: Kind };

export type WatchId = Id<'watch'>;
export type RuleId = Id<'rule'>;
export type RecordId = Id<'record'>;
export type SeriesId = Id<'series'>;
export type AccountId = Id<'account'>;
export type AlertId = Id<'alert'>;
export type ChangeId = Id<'change'>;
export type DeliveryId = Id<'delivery'>;
export type DraftId = Id<'draft'>;
export type PreviewId = Id<'look'>;
export type PersonId = Id<'person'>;
export type ReportId = Id<'report'>;
export type RunId = Id<'run'>;
export type SnapshotId = Id<'snapshot'>;
export type SourceId = Id<'source'>;
export type SiteId = Id<'site'>;
export type NoticeId = Id<'notice'>;
export type CutId = Id<'cut'>;
export type EditionId = Id<'edition'>;
export type ListId = Id<'list'>;
export type EpisodeId = Id<'episode'>;
export type QuestionId = Id<'question'>;
export type ItemId = Id<'item'>;
export type EditId = Id<'edit'>;
export type StencilId = Id<'stencil'>;
