import type { Change, Sense } from '#core/compare/compare';
import { differenceParts } from '#core/tell/news';

const INKS: Record<Sense, string> = { better: 'text-teal', worse: 'text-chestnut', neither: 'text-ink' };
const WORDS: Record<Sense, string> = { better: 'better for us', worse: 'worse for us', neither: '' };

/** The ink of news that is better, worse or neither. */
export function senseInk(sense: Sense): string {
  return INKS[sense];
}

/** What changed, last in its row: glyph, amount and percent. */
export function Difference({
  change,
  locale,
}: {
  change: Pick<Change, 'kind' | 'from' | 'to' | 'difference' | 'percent' | 'sense'>;
  locale: string;
}) {
  const parts = differenceParts(change, locale);
  const words = WORDS[change.sense];
  return (
    <span
      className={`whitespace-nowrap ${change.difference === null ? 'text-second' : `font-semibold ${INKS[change.sense]}`}`}
    >
      <span aria-hidden="true" className="mr-0.5 text-[11px]">
        {parts.glyph}
      </span>
      {parts.amount}
      {parts.percent === null ? null : <span className="ml-1.5">{parts.percent}</span>}
      {words === '' ? null : <span className="sr-only"> ({words})</span>}
    </span>
  );
}
