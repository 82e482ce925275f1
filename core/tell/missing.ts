import { listed } from '../words';
import { DELIVERY_REASONS, isReason } from './delivery';

/** A number of a reader that no mail bore: why, as it is stored; null where no server took it. */
interface Gap {
  number: number;
  reason: string | null;
}

/** What a mail says of the numbers before it. */
export interface Missing {
  /** Those that never came and were not explained yet. */
  gaps: Gap[];
  /** Those that are held, while this one passes. */
  held: number[];
  /** It would have been a short text, but those of this month are spent. */
  insteadOfText?: boolean;
}

/** Of numbers that follow one another so many stretches are named. */
const MOST = 60;

/**
 * What became of the numbers that a reader does not have, as sentences: `Mail 7 was cancelled when you left.` Empty
 * where none is missing.
 */
export function missingWords({ gaps, held, insteadOfText = false }: Missing): string[] {
  const why = ({ reason }: Gap) =>
    (reason !== null && isReason(reason) && DELIVERY_REASONS[reason].never) || 'was taken by no mail server';
  const groups = [...new Set(gaps.map(why))].map((never) => {
    const of = gaps.filter((gap) => why(gap) === never);
    return told(
      of.map(({ number }) => number),
      never,
    );
  });
  const instead = insteadOfText
    ? ['This would have been a short text: those that may go out this month are spent.']
    : [];
  return [...instead, ...groups, ...(held.length === 0 ? [] : [told(held, 'is held until you want to be reached')])];
}

/** `Mail 7 was …`, `Mails 7 to 9 and 12 were …`. */
function told(numbers: number[], what: string): string {
  const runs = runsOf([...numbers].sort((one, other) => one - other));
  const said = listed(runs.map(runWords), MOST);
  if (numbers.length === 1) return `Mail ${said} ${what}.`;
  return `Mails ${said} ${what.replace(/^was /, 'were ').replace(/^is /, 'are ').replace(', and is ', ', and are ')}.`;
}

const runWords = ({ from, to }: Run) => (from === to ? `${from}` : `${from}${to === from + 1 ? ', ' : ' to '}${to}`);

/** Numbers that follow one another. */
interface Run {
  from: number;
  to: number;
}

function runsOf(sorted: number[]): Run[] {
  const runs: Run[] = [];
  for (const number of sorted) {
    const last = runs.at(-1);
    if (last?.to === number - 1) last.to = number;
    else runs.push({ from: number, to: number });
  }
  return runs;
}
