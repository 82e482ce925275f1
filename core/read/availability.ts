import { isTag, type AnyNode } from 'domhandler';
import { markedNumbers } from '../value/marked';
import { parseMoment } from '../value/timestamp';
import { foldText } from '../value/parse';
import { AVAILABILITY, GRADES, type FieldType } from './definition';
import { isHidden, pageFacts, shortText, strikes, visibleText, type Document, type Element } from './html';
import { labelFor } from './label';

/**
 * A place whose words say something that is followed like a price: whether a thing can be had, a date, a grade, a
 * rating.
 */
interface AvailabilityWords {
  element: Element;
  type: FieldType;
  label: string;
}

const LONGEST = 60;
/** Places of which is asked which moment they say, or beside what they stand. */
const MOST_PROBED = 200;
const PASSED_BY = new Set([
  'a',
  'button',
  'nav',
  'select',
  'option',
  'label',
  'h1',
  'h2',
  'h3',
  'h4',
  'h5',
  'h6',
  'th',
  'footer',
]);

/**
 * The places of a page that tell of stock, dates, grades and ratings, in order; what is struck out or leads elsewhere
 * tells nothing.
 */
export function availabilityElements(document: Document, most: number): AvailabilityWords[] {
  const locale = pageFacts(document).locale ?? 'en-GB';
  const found: AvailabilityWords[] = [];
  let probed = 0;
  for (const element of leavesOf(document)) {
    const text = visibleText(element);
    const may = KINDS.filter(({ fits }) => fits(text, locale));
    if (may.length > 0 || LIKE_A_DAY.test(text)) probed += 1;
    if (probed > MOST_PROBED) break;
    if (may.length === 0) continue;
    const beside = labelFor(document, element)?.toLowerCase() ?? null;
    const kind = may.find(({ needs }) => needs === null || needs.test(beside ?? '') || needs.test(text));
    if (kind !== undefined) found.push({ element, type: kind.type, label: beside ?? kind.label });
    if (found.length === most) break;
  }
  return found;
}

/** What a short text is by its words alone: whether a thing can be had, or a date. Null for any other. */
export function availabilityBy(text: string, locale: string | null): Pick<AvailabilityWords, 'type' | 'label'> | null {
  const kind =
    text.length > LONGEST
      ? undefined
      : KINDS.find(({ fits, needs }) => needs === null && fits(text, locale ?? 'en-GB'));
  return kind ?? null;
}

/** The elements in sight that hold a short text and no other element with one. */
function* leavesOf(document: Document): Generator<Element> {
  const open: AnyNode[] = [...document.children].reverse();
  for (let next = open.pop(); next !== undefined; next = open.pop()) {
    if (!isTag(next) || PASSED_BY.has(next.name) || isHidden(next) || strikes(next)) continue;
    const inner = next.children.filter((child) => isTag(child) && shortText(child) !== '');
    if (inner.length === 0 && (shortText(next) ?? '') !== '' && visibleText(next).length <= LONGEST) yield next;
    for (let at = next.children.length - 1; at >= 0; at -= 1) open.push(next.children[at] as AnyNode);
  }
}

interface Kind {
  type: FieldType;
  /** What it is called where nothing stands beside it. */
  label: string;
  /** What has to be said, in it or beside it; null where it speaks for itself. */
  needs: RegExp | null;
  fits: (text: string, locale: string) => boolean;
}

/**
 * A year with a day, or with a month in words: only of such a text it is asked which moment it is, for that takes long.
 */
const LIKE_A_DAY =
  /^(?:\p{L}+,? )?\d{1,2}(?:[./-]\d{1,2}[./-]|\.?\s\p{L}{3,9}\.?,?\s)(?:19|20)\d{2}|^(?:19|20)\d{2}-\d{2}-\d{2}|^\p{L}{3,9}\.? \d{1,2}, (?:19|20)\d{2}/u;

const KINDS: Kind[] = [
  { type: { kind: 'state', states: AVAILABILITY }, label: 'availability', needs: null, fits: saysAvailability },
  {
    type: { kind: 'moment' },
    label: 'date',
    needs: null,
    fits: (text, locale) => LIKE_A_DAY.test(text) && parseMoment(text, locale) !== null,
  },
  {
    type: { kind: 'grade', scale: GRADES },
    label: 'grade',
    needs: /\b(?:grade|class|klasse|band|qualité|güte)\b/i,
    fits: (text) => /(?:^|[\s:])[A-F][+-]?$/.test(text) && text.length <= 20,
  },
  {
    type: { kind: 'number' },
    label: 'rating',
    needs: /\b(?:rating|score|stars?|bewertung|sterne|note|avis)\b/i,
    fits: (text) => /^\d{1,3}(?:[.,]\d{1,2})?$/.test(text),
  },
];

const SHORTEST_ANSWER = 2;
const PHRASES = AVAILABILITY.flatMap(({ phrases }) => phrases).map(
  (phrase) => new RegExp(`^${phrase.replace(/[^\p{L}\p{N}]+/gu, '[^\\p{L}\\p{N}]+')}(?![\\p{L}\\p{N}])`, 'u'),
);

/** Whether a text begins with what shops say of their stock, with hardly a word after it. */
function saysAvailability(text: string): boolean {
  if (markedNumbers(text, null).some(({ mark }) => mark !== null)) return false;
  const folded = foldText(text).toLowerCase();
  const said = PHRASES.map((phrase) => phrase.exec(folded)?.[0] ?? null).find((each) => each !== null);
  return (
    said !== undefined &&
    folded
      .slice(said.length)
      .split(/[^\p{L}\p{N}]+/u)
      .filter(Boolean).length <= SHORTEST_ANSWER
  );
}
