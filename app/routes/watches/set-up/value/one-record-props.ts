import type { DraftId } from '#core/id';
import type { PlanDraft } from '#core/plan/plan';
import type { PresentValues } from '#core/plan/rule-draft';
import type { Candidate } from '#core/read/candidates';
import type { Field } from '#core/read/definition';
import type { MendingShown } from '#core/read/inspect/mending';
import type { Wall } from '#core/read/inspect/wall';
import type { Locator } from '#core/read/locator';
import type { Listing } from '#core/read/listing/listing';
import type { Value } from '#core/value/value';
import type { SourceFacts } from '../source/facts';
import type { Marked } from './picture';
import type { Shown } from './shown-page';
import type { Volatile } from './words';

export interface OneRecordProps {
  draftId: DraftId;
  draft: PlanDraft;
  candidates: Candidate[];
  listings: Listing[];
  facts: SourceFacts;
  shown: Shown;
  /** Where on it the fields stand that were taken. */
  taken: Marked[];
  /** Whether it is a page of many things. */
  ofMany: boolean;
  /** What stands before the page. */
  wall: Wall | null;
  present: PresentValues;
  mending: MendingShown | null;
  volatile: Volatile;
  /** The way to the words of the page. */
  words: Locator | null;
  locale: string;
  onTake: (field: Field, value: Value) => void;
  onChange: (change: Partial<PlanDraft>) => void;
  onRecords: (listing: Listing) => void;
}
