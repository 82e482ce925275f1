import { flat } from '../value/sanitise';
import { formatInstant, type Place } from '../when/format';
import type { Instant } from '../when/interval';
import { CAUSES, type Cause } from './failure';
import { framed, INK, SERIF, THIRD, TONES, WHOLE, type MailFrame, type Message, type Parts } from './mail-frame';
import { html, type Markup } from './markup';
import type { Headline } from './news';
import { ended } from '../words';

/**
 * A watch that is not read any more, or is again, or of which a rule ends soon, with the addresses that a mail about it
 * leads to.
 */
export interface NoticeItem {
  kind: 'failing' | 'recovered' | 'question' | 'ends';
  /** Null of a rule that ends. */
  cause: Cause | null;
  subject: string;
  site: string;
  sentence: string;
  since: Instant;
  lastGoodAt: Instant | null;
  page: string;
  watch: string;
}

/** One edition that tells of watches which are not read, as one reader gets it. */
export interface NoticeMail extends Omit<MailFrame, 'coverage'> {
  notices: NoticeItem[];
}

/** Renders an edition about watches that are not read, or are again, as a mail. */
export function noticeMail({ notices, ...rest }: NoticeMail): Message {
  const coverage = notices.every(({ kind }) => kind === 'ends')
    ? `Edition ${rest.edition} covers what ends soon. ${WHOLE}`
    : `Edition ${rest.edition} covers one run, which told of ` +
      `${notices.length === 1 ? 'one watch' : `${notices.length} watches`}. ${WHOLE}`;
  const frame: MailFrame = { ...rest, coverage };
  return framed(frame, subjectOf(notices), noticeParts(notices, rest.place));
}

/** What a mail tells of watches. */
export function noticeParts(notices: NoticeItem[], place: Place): Parts {
  return {
    html: notices.map((notice) => block(notice, place)),
    text: notices.map((notice) => textBlock(notice, place)),
  };
}

const SUBJECTS: Record<NoticeItem['kind'], string> = {
  failing: 'Not read',
  recovered: 'Read again',
  question: 'A question',
  ends: 'Ends soon',
};

function subjectOf(notices: NoticeItem[]): string {
  const [first] = notices;
  if (first === undefined) return '';
  const more = notices.length > 1 ? ` and ${notices.length - 1} more` : '';
  return `${SUBJECTS[first.kind]}: ${first.site}, ${first.subject}${more}`;
}

const NO_CAUSE = { happened: '', means: '' };
const causeOf = (cause: Cause | null) => (cause === null ? NO_CAUSE : CAUSES[cause]);

/** What a notice is said by. */
export type NoticeSaid = Pick<NoticeItem, 'kind' | 'cause' | 'subject' | 'site' | 'since'>;

/**
 * A notice in two breaths: `Extractor at Nectarine Row is not read`, and why; a moment in it is written for its reader.
 */
export function noticeHeadline({ kind, cause, subject, site, since }: NoticeSaid, place: Place): Headline {
  const what = `${subject} at ${site}`;
  const { happened } = causeOf(cause);
  switch (kind) {
    case 'recovered':
      return { lead: `${what} is read again`, meaning: `after ${happened}` };
    case 'ends':
      return {
        lead: `A rule on ${what} ends soon`,
        meaning: `it is judged until ${formatInstant(since, 'moment', place)}`,
      };
    case 'question':
      return { lead: `${what} is in question`, meaning: 'is it still what you follow?' };
    case 'failing':
      return { lead: `${what} is not read`, meaning: happened };
  }
}

/** What there is to say beside the headline. */
function moreOf({ kind, cause, sentence, since, lastGoodAt }: NoticeItem, place: Place): string[] {
  const from = formatInstant(since, 'moment', place);
  if (kind === 'recovered')
    return [
      `It was not read since ${from}. Nothing that moved meanwhile was missed for good: it is compared with the ` +
        'last good value.',
    ];
  if (kind === 'ends')
    return [
      `${sentence}.`,
      'After that nobody hears of it any more. Keep it for longer on its page, if it still matters.',
    ];
  if (kind === 'question') {
    return [
      sentence,
      'Nothing was called a change and nobody else was told. The last good value stands until you say yes or no, ' +
        'on the watch’s page; the same question at other watches of the site is asked there with it.',
    ];
  }
  const good =
    lastGoodAt === null
      ? 'It was never read.'
      : `The last good value is of ${formatInstant(lastGoodAt, 'moment', place)}; it stands, stale, and nothing is ` +
        'called a change.';
  return [
    sentence,
    `Since ${from}. ${good}`,
    `${causeOf(cause).means} You will hear once more, when it is read again.`,
  ];
}

function block(notice: NoticeItem, place: Place): Markup {
  const { lead, meaning } = noticeHeadline(notice, place);
  const more = moreOf(notice, place);
  const sense = notice.kind === 'recovered' ? 'better' : 'worse';
  return html`<tr><td class="ink" colspan="2" style="padding:18px 0 6px;font:500 22px/29px ${SERIF}">${lead}: <span class="${sense}" style="color:${TONES[sense]}">${meaning}</span></td></tr>
<tr><td colspan="2" style="padding:4px 0 10px">${more.map((sentence) => html`<p style="margin:0 0 6px">${sentence}</p>`)}</td></tr>
<tr><td colspan="2" style="padding:0 0 22px"><a href="${notice.watch}" style="color:${INK}">${notice.kind === 'ends' ? 'Open the rule in Shrike' : 'Open the watch in Shrike'}</a> &#183; <a href="${notice.page}" style="color:${INK}">Open the page</a><br><span class="third" style="font-size:12px;color:${THIRD};word-break:break-all">${notice.page}</span></td></tr>`;
}

function textBlock(notice: NoticeItem, place: Place): string {
  const { lead, meaning } = noticeHeadline(notice, place);
  return [
    ended(`${lead}: ${meaning}`),
    '',
    ...moreOf(notice, place),
    '',
    `The ${notice.kind === 'ends' ? 'rule' : 'watch'}: ${notice.watch}`,
    `The page: ${notice.page}`,
  ]
    .map(flat)
    .join('\n');
}
