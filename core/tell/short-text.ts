import { foldText } from '../value/parse';
import { cut } from '../value/sanitise';

// A text of one segment (3GPP TS 23.038, which GSM 03.38 became): 160 septets of its basic alphabet, in which those of
// the extension table take two, or 70 code units of UCS-2 where it holds anything else.

const BASIC =
  '@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ ' +
  '!"#¤%&\'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà';
const EXTENDED = '\f^{}\\[~]|€';
const SEPTETS = new Map<string, number>([
  ...[...BASIC].map((sign): [string, number] => [sign, 1]),
  ...[...EXTENDED].map((sign): [string, number] => [sign, 2]),
]);

const MOST_SEPTETS = 160;
const MOST_UNITS = 70;

/** What is written otherwise so that a text stays in the basic alphabet. */
const PLAIN: Record<string, string> = {
  '‘': "'",
  '’': "'",
  '“': '"',
  '”': '"',
  '–': '-',
  '—': '-',
  '−': '-',
  '…': '...',
  '▼': '',
  '▲': '',
  '◇': '',
  '→': '->',
  '·': '-',
  '\u00a0': ' ',
  '\u202f': ' ',
};

/** A text in the basic alphabet, letters without marks that it does not have; null of what it cannot write. */
function plain(text: string): string | null {
  const written = [...text].map((sign) => {
    if (SEPTETS.has(sign)) return sign;
    const other = PLAIN[sign] ?? sign.normalize('NFKD').replace(/\p{M}/gu, '');
    return [...other].every((each) => SEPTETS.has(each)) ? other : null;
  });
  return written.every((each) => each !== null) ? foldText(written.join('')) : null;
}

/** How much of a segment a text takes: septets, or code units where it is not of the basic alphabet. */
export function segmentOf(text: string): { in: 'GSM 03.38' | 'UCS-2'; length: number; most: number } {
  const septets = [...text].map((sign) => SEPTETS.get(sign) ?? null);
  if (septets.some((each) => each === null)) return { in: 'UCS-2', length: text.length, most: MOST_UNITS };
  return { in: 'GSM 03.38', length: septets.reduce<number>((sum, each) => sum + (each ?? 0), 0), most: MOST_SEPTETS };
}

const fits = (text: string): boolean => {
  const { length, most } = segmentOf(text);
  return length <= most;
};

/**
 * News with a link, as one segment: of news that is too long its beginning. The link is whole, or it is left out where
 * it alone does not fit.
 */
export function shortText(news: string, link: string): string {
  const folded = foldText(news);
  const said = plain(folded) ?? folded;
  const tail = fits(` ${link}`) && link !== '' ? ` ${link}` : '';
  if (fits(`${said}${tail}`)) return `${said}${tail}`;
  const dots = plain(folded) === null ? '…' : '...';
  // The longest beginning that fits, found by halves: what is written takes as much room as it has signs, or twice.
  let [low, high] = [0, said.length];
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if (fits(`${cut(said, middle).trimEnd()}${dots}${tail}`)) low = middle;
    else high = middle - 1;
  }
  return `${cut(said, low).trimEnd()}${dots}${tail}`;
}
