import { composeEdition, tellsSomething, type EditionDocument, type Stretch } from '#core/tell/edition/document';
import type { Gathered } from '#core/tell/edition/gathered';
import { shareOf, valuesIn, type Share } from '#core/tell/edition/share';
import type { Split, StandingOrder } from '#core/tell/standing-order';

// What a cut brings forth: one edition for all, or one for each value that its news bears, and one of what broke where that has readers of its
// own (14, 17).

/** An edition with the readers that are named for it; those who read the rest are `null`. */
export interface PartOfCut {
  document: EditionDocument;
  named: string[] | null;
  /** What it was made of. */
  of: Gathered;
}

/** The editions of what a cut found, those alone that tell something, or are to say that nothing moved. */
export function partsOf(order: StandingOrder, stretch: Stretch, found: Gathered): PartOfCut[] {
  const apart = order.broken.length > 0;
  const news = apart ? { ...found, broken: [] } : found;
  const all = order.split === null ? [whole(order, stretch, news)] : ofValues(order.split, order, stretch, news);
  const told = all.filter(({ document }) => tellsSomething(document) || order.whenNothing === 'say');
  return apart && found.broken.length > 0 ? [...told, broken(order, stretch, found)] : told;
}

const whole = (order: StandingOrder, stretch: Stretch, found: Gathered): PartOfCut => ({
  document: composeEdition(order, stretch, found),
  named: null,
  of: found,
});

function broken(order: StandingOrder, stretch: Stretch, found: Gathered): PartOfCut {
  const of = { ...found, moves: [], alerts: [] };
  return { document: composeEdition(order, stretch, of, { of: 'broken' }), named: order.broken, of };
}

function ofValues(split: Split, order: StandingOrder, stretch: Stretch, found: Gathered): PartOfCut[] {
  const borne = valuesIn(split, found);
  const quiet = split.parts.map(({ value }) => value).filter((value) => !borne.includes(value));
  return [...borne, ...(order.whenNothing === 'say' ? quiet : [])].map((value) => {
    const named = split.parts.find((part) => part.value === value)?.readers ?? null;
    const share: Share = { of: 'value', by: split.by, value, because: named === null ? 'nobody named' : null };
    const of = shareOf(split, value, found);
    return { document: composeEdition(order, stretch, of, share), named, of };
  });
}
