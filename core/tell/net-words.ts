import { compareReadings } from '../compare/compare';
import { isReturn, type Net, type NetPart } from '../compare/net';
import { formatValue } from '../value/format';
import { sameValue } from '../value/value';
import { countOf } from '../words';
import { formatDuration } from '../when/format';
import type { Instant } from '../when/interval';
import { differenceParts } from './news';

/**
 * What became of a series over a stretch, in words: `£24.00 → £21.00, ▼3.00 12.5%, 2 moves`. `until` is when the
 * stretch ends.
 */
export function describeNet(net: Net, locale: string, until: Instant): string {
  const said = net.parts
    .map((part, at) => describePart(part, at === 0 && net.isFirst, isReturn(net), locale))
    .join(', then ');
  const away = net.awayMs > 0 ? `away ${formatDuration(net.awayMs)}` : '';
  const gone = net.absentSince === null ? '' : `no value for ${formatDuration(until - net.absentSince)}`;
  return [said, away, gone].filter(Boolean).join(', ');
}

function describePart({ from, to, moves }: NetPart, isFirst: boolean, isReturned: boolean, locale: string): string {
  const [was, is] = [formatValue(from, locale), formatValue(to, locale)];
  if (isFirst)
    return sameValue(from, to)
      ? `first read at ${is}${moves > 0 ? `, ${is} again after ${counted(moves)}` : ''}`
      : `first read at ${was}, ${is} now`;
  if (isReturned) return `returned to ${is} after ${counted(moves)}`;
  if (moves === 0 || sameValue(from, to)) return moves === 0 ? is : `${is} again after ${counted(moves)}`;
  return [`${was} → ${is}`, differenceWords(from, to, locale), moves > 1 ? counted(moves) : '']
    .filter(Boolean)
    .join(', ');
}

/** The size of a move, where it has one. */
function differenceWords(from: NetPart['from'], to: NetPart['to'], locale: string): string {
  const change = compareReadings(from, to, 'neither');
  if (change?.difference == null) return '';
  const { glyph, amount, percent } = differenceParts(change, locale);
  return `${glyph}${amount}${percent === null ? '' : ` ${percent}`}`;
}

const counted = (moves: number) => countOf(moves, 'move');
