import { formatValue } from '../../../value/format';
import type { Measure } from '../../../value/value';
import { formatDuration } from '../../../when/format';
import { listed } from '../../../words';
import type { Figure, Judged, JudgedWindow, Limits } from '../../asked';
import { askedWords, figureWords, type Names } from '../../words';
import type { LimitClause } from './judge';

/** A limit in words; one that was passed as it stands once it is, where it is said in brief. */
export function limitClauseWords({ kind, of, limits, margin }: LimitClause, names: Names): string {
  const as = names.brief === true ? 'level' : kind;
  return `${judgedWords(of, names)} ${limitWords(as, limits, names.locale)}${marginWords(margin, names)}`;
}

const MADE: Record<JudgedWindow['make'], string> = {
  minimum: 'the lowest',
  maximum: 'the highest',
  mean: 'the mean',
  median: 'the median',
  range: 'the range of',
  'first to last': 'the move from first to last of',
  sum: 'the sum of',
  readings: 'the number of readings of',
  moves: 'the number of moves of',
  increase: 'the increase of',
  pace: 'the pace of',
};

function judgedWords({ asked, over }: Judged, names: Names): string {
  if (over === undefined) return askedWords(asked, names);
  return `${MADE[over.make]} ${askedWords(asked, names)} ${windowWords(over.of)}`;
}

function windowWords(of: JudgedWindow['of']): string {
  if ('this' in of) return of.this === 'day' ? 'today' : `this ${of.this}`;
  return of.last === 'time' ? `over the last ${formatDuration(of.ms)}` : `over the last ${of.count} readings`;
}

/** The verb of a limit: `falls below`, `is at or above`. */
function limitVerb(kind: 'level' | 'crossing', { is, inclusive }: Pick<Limits, 'is' | 'inclusive'>): string {
  if (is === 'between') return kind === 'level' ? (inclusive ? 'is between' : 'is strictly between') : 'comes between';
  if (is === 'outside') return kind === 'level' ? 'is outside' : 'leaves';
  if (kind === 'level') return inclusive ? `is at or ${is}` : `is ${is}`;
  if (inclusive) return is === 'below' ? 'falls to or below' : 'rises to or above';
  return is === 'below' ? 'falls below' : 'rises above';
}

function limitWords(kind: 'level' | 'crossing', limits: Limits, locale: string): string {
  const verb = limitVerb(kind, limits);
  if ('limit' in limits) return `${verb} ${formatValue(limits.limit, locale)}${furtherWords(limits.further, locale)}`;
  return (
    `${verb} ${formatValue(limits.low, locale)} ${limits.is === 'between' && kind === 'level' ? 'and' : 'to'} ` +
    `${formatValue(limits.high, locale)}`
  );
}

/** `, told again at £22.00 and £20.00`. */
const furtherWords = (further: Measure[] = [], locale: string) =>
  further.length === 0 ? '' : `, told again at ${listed(further.map((limit) => formatValue(limit, locale)))}`;

const marginWords = (margin: Figure | undefined, { locale, brief }: Names) =>
  margin === undefined || brief === true ? '' : `, until it is back by ${figureWords(margin, locale)}`;
