import { composeEdition, tellsSomething, type EditionDocument, type EditionWindow } from '#core/tell/edition/document';
import type { Gathered } from '#core/tell/edition/gathered';
import { sharesOf, together, type Share } from '#core/tell/edition/share';
import type { Split, ReportDefinition } from '#core/tell/definition';
import { cutWith } from '#core/when/cadence';

// What a cut brings forth: one edition for all, or one for each value that its news bears, and one of what broke where
// that has readers of its own (14, 17).

/** An edition with the readers that are named for it; those who read the rest are `null`. */
export interface PartOfCut {
  document: EditionDocument;
  named: string[] | null;
  /** What it was made of. */
  of: Gathered;
}

/** The editions of what a cut found, those alone that tell something, or are to say that nothing moved. */
export function partsOf(order: ReportDefinition, stretch: EditionWindow, found: Gathered): PartOfCut[] {
  const apart = order.broken.length > 0;
  const news = apart ? { ...found, broken: [] } : found;
  const all = order.split === null ? [whole(order, stretch, news)] : ofValues(order.split, order, stretch, news);
  const told = all.filter(({ document }) => tellsSomething(document) || saysNothing(order));
  return apart && found.broken.length > 0 ? [...told, broken(order, stretch, found)] : told;
}

/** Whether a cut with nothing to tell says so (8); what is cut with news alone has none where there is none. */
const saysNothing = ({ whenNothing, cadence }: ReportDefinition): boolean =>
  whenNothing === 'say' && cutWith(cadence) !== 'news';

const whole = (order: ReportDefinition, stretch: EditionWindow, found: Gathered): PartOfCut => ({
  document: composeEdition(order, stretch, found),
  named: null,
  of: found,
});

function broken(order: ReportDefinition, stretch: EditionWindow, found: Gathered): PartOfCut {
  const of = { ...found, moves: [], alerts: [] };
  return { document: composeEdition(order, stretch, of, { of: 'broken' }), named: order.broken, of };
}

/**
 * Of values that nobody is named for so many have editions of their own; the others have one together, so that a cut is
 * no flood.
 */
const MOST_UNNAMED = 50;

/** So many values that nobody is named for are named in each edition. */
const MOST_NAMED = 5;

/** Each edition of a cut says for which of its values nobody is named (14). */
function withUncovered(of: Gathered, { by }: Split, unnamed: readonly (string | null)[]): Gathered {
  if (unnamed.length === 0) return of;
  const uncovered = { by, values: unnamed.slice(0, MOST_NAMED), count: unnamed.length };
  return { ...of, coverage: { ...of.coverage, uncovered } };
}

function ofValues(split: Split, order: ReportDefinition, stretch: EditionWindow, found: Gathered): PartOfCut[] {
  const bearing = sharesOf(split, found);
  const namedFor = (value: string | null) => split.parts.find((part) => part.value === value)?.readers ?? null;
  const partFor = (share: Share, of: Gathered, named: string[] | null): PartOfCut => ({
    document: composeEdition(order, stretch, of, share),
    named,
    of,
  });
  const unnamed = [...bearing.keys()].filter((value) => namedFor(value) === null);
  const shares = new Map([...bearing].map(([value, of]) => [value, withUncovered(of, split, unnamed)]));
  const others = unnamed.slice(MOST_UNNAMED);
  const quiet = saysNothing(order) ? split.parts.map(({ value }) => value).filter((value) => !shares.has(value)) : [];
  const own = [...shares.keys(), ...quiet]
    .filter((value) => !others.includes(value))
    .map((value) => {
      const named = namedFor(value);
      const of = shares.get(value) ?? withUncovered({ ...found, moves: [], alerts: [], broken: [] }, split, unnamed);
      return partFor({ of: 'value', by: split.by, value, because: named === null ? 'nobody named' : null }, of, named);
    });
  if (others.length === 0) return own;
  const rest = together(
    withUncovered(found, split, unnamed),
    others.flatMap((value) => shares.get(value) ?? []),
  );
  return [...own, partFor({ of: 'others', by: split.by, values: others }, rest, null)];
}
