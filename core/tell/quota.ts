import { flat } from '../value/sanitise';
import { formatRecent, type Place } from '../when/format';
import type { Instant } from '../when/interval';
import { countOf } from '../words';
import { INK, pageHtml, pageText, SERIF, type Message } from './mail-frame';
import { oneLine } from './subject-line';
import { html } from './markup';

// How much may go out, and who is told before it is spent (25).

/** What can be bounded: mails in all, mails to each reader, short texts; and the runs of one host. */
export const QUOTAS = ['mails', 'mails a reader', 'texts'] as const;
export type QuotaOf = (typeof QUOTAS)[number];

/** In what stretch: the last 60 minutes, the last 24 hours, this month by the calendar, or this day. */
type Within = 'an hour' | '24 hours' | 'a month' | 'a day';

/** Bounds as they are set; null where there is none. */
export interface Quota {
  anHour: number | null;
  aDay: number | null;
  aMonth: number | null;
}

const MOST = 1_000_000;

/** What is wrong with a bound, as a sentence; null where nothing is. */
export const quotaFault = (said: Quota): string | null =>
  Object.values(said).every((each) => each === null || (Number.isInteger(each) && each >= 1 && each <= MOST))
    ? null
    : `A bound is a whole number from 1 to ${MOST.toLocaleString('en-GB')}; leave it empty for none.`;

/** How much of a bound is used. */
export interface Spending {
  of: QuotaOf | 'runs';
  within: Within;
  /** Whose, of what is counted for each: a reader or a host. */
  about: { key: string; name: string } | null;
  used: number;
  most: number;
}

/** Whether so much is used that its owner is told: eight tenths. */
export const isNearlySpent = ({ used, most }: Pick<Spending, 'used' | 'most'>): boolean => used * 10 >= most * 8;

/** What is bounded, each bound in words: `20 mails to each reader in 60 minutes`; empty where nothing is. */
export function boundsWords(set: readonly (Quota & { of: QuotaOf })[]): string[] {
  return QUOTAS.flatMap((of) => {
    const bound = set.find((each) => each.of === of);
    if (bound === undefined) return [];
    const whose = of === 'mails a reader' ? ' to each reader' : '';
    const said = (most: number | null, within: string) =>
      most === null ? [] : [`${countOf(most, COUNTED[of])}${whose} ${within}`];
    return [
      ...said(bound.anHour, 'in 60 minutes'),
      ...said(bound.aDay, 'in 24 hours'),
      ...said(bound.aMonth, 'a month'),
    ];
  });
}

const COUNTED: Record<Spending['of'], string> = {
  mails: 'mail',
  'mails a reader': 'mail',
  texts: 'short text',
  runs: 'run',
};
const WINDOW: Record<Within, string> = {
  'an hour': 'in the last 60 minutes',
  '24 hours': 'in the last 24 hours',
  'a month': 'this month',
  'a day': 'today',
};

/** `17 of 20 mails to Ravi Oduya in the last 60 minutes`. */
export function spendingWords({ of, within, about, used, most }: Spending): string {
  const whose = about === null ? '' : of === 'runs' ? ` at ${about.name}` : ` to ${about.name}`;
  return `${used} of ${countOf(most, COUNTED[of])}${whose} ${WINDOW[within]}`;
}

/** What happens beyond a bound. */
const BEYOND: Record<Spending['of'], string> = {
  mails:
    'Beyond that mails are gathered, one for each reader and report, and go when there is room again. Nothing is ' +
    'dropped.',
  'mails a reader':
    'Beyond that what is for her is gathered, one mail for each report, and goes when there is room again. ' +
    'Nothing is dropped.',
  texts: 'Beyond that what would be a short text comes as a mail.',
  runs: 'Beyond that its watches wait for the next day.',
};

/** The warning to whoever set what is nearly spent. */
export interface QuotaMail {
  readerName: string;
  spent: Spending[];
  made: Instant;
  /** Where the bounds are set. */
  link: string;
  place: Place;
}

/** Renders the mail that says which bounds are nearly spent. */
export function quotaMail({ readerName, spent, made, link, place }: QuotaMail): Message {
  const [first] = spent;
  const said = spent.map(spendingWords);
  const beyond = [...new Set(spent.map(({ of }) => BEYOND[of]))];
  const page = {
    title: 'Nearly spent',
    standing: `${formatRecent(made, made, place)} · for ${readerName}`,
    foot: ['You set these bounds. This is said once, and again only after there was room.'],
    ways: [{ said: 'See and set them in Shrike', to: link }],
    locale: place.locale,
  };
  const lines = said.map((each) => html`<p style="margin:0 0 6px;font:400 17px/25px ${SERIF}">${each}.</p>`);
  const block = html`<tr><td class="ink" colspan="2" style="padding:18px 0 6px;color:${INK}">${lines}</td></tr>
<tr><td colspan="2" style="padding:0">${beyond.map((each) => html`<p style="margin:0 0 6px">${each}</p>`)}</td></tr>`;
  return {
    subject: oneLine(
      'Nearly spent: ' +
        `${first === undefined ? 'an allowance' : spendingWords(first)}${said.length > 1 ? `, and ${said.length - 1} more` : ''}`,
    ),
    html: pageHtml(page, [block]).markup,
    text: pageText(page, [said.map((each) => flat(`${each}.`)).join('\n'), beyond.join('\n')]),
  };
}
