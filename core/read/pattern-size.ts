interface Group {
  /** What stands before the last piece, and the last piece, which a repetition would multiply. */
  before: number;
  last: number;
}

/** A class: `[^]a-z\]]`; a bracket that comes first is one of its signs, and `[:alpha:]` stands in one. */
const CLASS = /\[\^?\]?(?:\[:\^?\w+:\]|\\.|[^\]\\])*\]?/suy;
/** One sign that is escaped, with what belongs to it; or a run that is taken as it stands. */
const ESCAPED = /\\Q.*?(?:\\E|$)|\\[pPx]\{[^}]*\}?|\\./suy;
const REPEATED = /\{(\d+)(?:(,)(\d*))?\}/uy;
/** A group needs two instructions of its own, and so does a choice between two ways. */
const OWN = 2;

/**
 * About how many instructions a pattern compiles to, worked out before it is compiled: what is repeated so many times
 * stands there as often. At least what it comes to, and of a broken pattern some number.
 */
export function patternSize(pattern: string): number {
  const above: Group[] = [];
  let group: Group = { before: 0, last: 0 };
  const piece = (size: number) => (group = { before: group.before + group.last, last: size });
  for (let at = 0; at < pattern.length;) {
    const [length, said] = pieceAt(pattern, at);
    at += length;
    if (typeof said === 'number') piece(said);
    else if (said === '(') {
      above.push(group);
      group = { before: 0, last: 0 };
    } else if (said === ')') {
      const inner = group.before + group.last + OWN;
      group = above.pop() ?? { before: 0, last: 0 };
      piece(inner);
    } else if (said === '|') piece(OWN);
    else group.last = group.last * Math.max(said.times, 1) + said.more;
  }
  return [...above, group].reduce((sum, { before, last }) => sum + before + last + OWN, 0);
}

/** How often a piece stands there, and how many instructions its repetition adds. */
interface Repeated {
  times: number;
  more: number;
}

const ONCE_OR_MORE: Repeated = { times: 1, more: OWN };
const SIGNS: Record<string, '(' | ')' | '|' | Repeated> = {
  ...({ '(': '(', ')': ')', '|': '|' } as const),
  ...{ '*': ONCE_OR_MORE, '+': ONCE_OR_MORE, '?': ONCE_OR_MORE },
};

/** The piece at a place: how long it is, and its size, its mark, or how it repeats the one before. */
function pieceAt(pattern: string, at: number): [number, number | '(' | ')' | '|' | Repeated] {
  const sign = pattern.charAt(at);
  const known = SIGNS[sign];
  if (known !== undefined) return [1, known];
  if (sign === '{') return repeatedAt(pattern, at) ?? [1, 1];
  const form = sign === '[' ? CLASS : sign === '\\' ? ESCAPED : null;
  const piece = (form === null ? null : takenAt(form, pattern, at)?.[0]) ?? sign;
  return [piece.length, piece.startsWith('\\Q') ? piece.length : 1];
}

function takenAt(form: RegExp, pattern: string, at: number): RegExpExecArray | null {
  form.lastIndex = at;
  return form.exec(pattern);
}

/** `{3}`, `{3,}` or `{3,5}`; null of a brace that is one of its signs. */
function repeatedAt(pattern: string, at: number): [number, Repeated] | null {
  const found = takenAt(REPEATED, pattern, at);
  if (found === null) return null;
  const [whole, least, open, most = ''] = found;
  const times = most === '' ? Number(least) + (open === undefined ? 0 : 1) : Number(most);
  return [whole.length, { times, more: open === undefined ? 0 : times + OWN }];
}
