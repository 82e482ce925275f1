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

/** The piece at a place: how long it is, and its size, its mark, or how it repeats the one before. */
function pieceAt(pattern: string, at: number): [number, number | '(' | ')' | '|' | Repeated] {
  const taken = (form: RegExp) => {
    form.lastIndex = at;
    return form.exec(pattern);
  };
  const sign = pattern.charAt(at);
  if (sign === '(' || sign === ')' || sign === '|') return [1, sign];
  if (sign === '*' || sign === '+' || sign === '?') return [1, { times: 1, more: OWN }];
  if (sign === '[') return [taken(CLASS)?.[0].length ?? 1, 1];
  if (sign === '\\') {
    const escaped = taken(ESCAPED)?.[0] ?? sign;
    return [escaped.length, escaped.startsWith('\\Q') ? escaped.length : 1];
  }
  const repeated = sign === '{' ? taken(REPEATED) : null;
  if (repeated === null) return [1, 1];
  const [whole, least, open, most = ''] = repeated;
  const times = most === '' ? Number(least) + (open === undefined ? 0 : 1) : Number(most);
  return [whole.length, { times, more: open === undefined ? 0 : times + OWN }];
}
