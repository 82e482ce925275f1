import { foldText } from '../value/parse';
import { cut, flat } from '../value/sanitise';

/** As long as a line of a mail is to be at most (RFC 5322, 2.1.1): what is longer is cut off where mails are listed. */
const MOST_SUBJECT = 78;
/** Of a name that is cut short so much is left at least. */
const LEAST_OF_NAME = 16;

const folded = (text: string): string => foldText(flat(text));

/** A text as a header line: one line, without control characters, bounded. */
export function oneLine(text: string): string {
  const line = folded(text);
  return line.length > MOST_SUBJECT ? `${cut(line, MOST_SUBJECT - 1)}…` : line;
}

/**
 * A subject that keeps its news, which stands at its end: of several ways to say it the first that has room; where none
 * has, the last, the name in it cut short where that leaves enough of it.
 */
export function subjectLine(
  name: string,
  ways: readonly [(name: string) => string, ...((name: string) => string)[]],
): string {
  const lines = ways.map((way) => folded(way(name)));
  const whole = lines.find((line) => line.length <= MOST_SUBJECT);
  if (whole !== undefined) return whole;
  const known = folded(name);
  for (const [at, way] of [...ways.entries()].reverse()) {
    const room = known.length - ((lines[at]?.length ?? 0) - MOST_SUBJECT) - 1;
    if (room >= LEAST_OF_NAME) return folded(way(`${cut(known, room).trimEnd()}…`));
  }
  return oneLine(lines.at(-1) ?? '');
}
