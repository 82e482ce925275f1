import { formatInstant, type Place } from '../when/format';
import type { Instant } from '../when/interval';
import { capital, countOf } from '../words';
import { framed, INK, SERIF, THIRD, type MailFrame, type Message, type Parts } from './mail-frame';
import { html, type Markup } from './markup';

/** An edition that was kept back. */
export interface DeferredPart {
  edition: number;
  made: Instant;
  link: string;
  parts: Parts;
}

/** What was kept back while a reader could not be reached, as one mail. */
export interface DeferredMail extends Omit<MailFrame, 'edition' | 'coverage'> {
  kept: DeferredPart[];
  /** How many editions there were before them. */
  before: number;
  /** Editions that were too old by then, and those whose news she had heard through other reports. */
  tooOld: number;
  heard: number;
  /** It was kept back because as many mails had gone out as may. */
  spent?: boolean;
  /** It was not kept back, but stands in for what another report was to tell and never did. */
  standsIn?: boolean;
}

const MOST_WHOLE = 12;
const MOST_CHARACTERS = 300_000;
const MOST_NAMED = 100;

/**
 * Renders what was kept back: the latest editions whole, as many as a mail can hold, and those before them by name. An
 * edition is never cut in two.
 */
export function deferredMail({ kept, before, tooOld, heard, ...said }: DeferredMail): Message {
  const { spent = false, standsIn = false, ...rest } = said;
  const { place } = rest;
  const whole = wholeOf(kept);
  const named = kept.slice(0, kept.length - whole.length);
  const newest = kept.at(-1)?.edition ?? null;
  const count = kept.length + before;
  const latest = whole.length === 1 ? 'The latest stands' : `The latest ${whole.length} stand`;
  const room = whole.length === count ? '' : ` ${latest} here whole, those before by name.`;
  const lead = standsIn
    ? `Another report was to tell you this at once, and its mail never came.${room}`
    : `${capital(countOf(count, 'edition'))} ${count === 1 ? 'was' : 'were'} kept back for you until ` +
      `now${spent ? ', since as many mails had gone out as may' : ''}.${room}`;
  const besides = [
    named.length + before === 0
      ? 'This mail leaves out nothing of them.'
      : 'Those that have no room here are read in Shrike.',
    tooOld === 0
      ? ''
      : `${capital(countOf(tooOld, 'edition'))} more than 30 days old ${tooOld === 1 ? 'is' : 'are'} only kept in ` +
        'Shrike.',
    heard === 0
      ? ''
      : `${capital(countOf(heard, 'edition'))} told nothing that you had not heard through another report.`,
  ];
  const older = named.length + before === 0 ? { html: [], text: [] } : namedPart(named, before, place);
  return framed(
    { ...rest, edition: newest, coverage: besides.filter(Boolean).join(' ') },
    `${rest.report}: ${standsIn ? 'what another mail was to tell you' : `${countOf(count, 'edition')} kept back until now`}`,
    {
      html: [leadRow(lead), ...whole.flatMap((part) => [headRow(part, place), ...part.parts.html]), ...older.html],
      text: [lead, ...whole.flatMap((part) => [titleOf(part, place), ...part.parts.text]), ...older.text],
    },
  );
}

const leadRow = (said: string): Markup =>
  html`<tr><td class="ink" colspan="2" style="padding:14px 0 0;font:400 16px/23px ${SERIF}">${said}</td></tr>`;

/** The latest that a mail can hold, in the order in which they were made. */
function wholeOf(kept: DeferredPart[]): DeferredPart[] {
  const whole: DeferredPart[] = [];
  let characters = 0;
  for (const part of [...kept].reverse()) {
    characters += part.parts.html.reduce((sum, { markup }) => sum + markup.length, 0);
    if (whole.length > 0 && (whole.length >= MOST_WHOLE || characters > MOST_CHARACTERS)) break;
    whole.unshift(part);
  }
  return whole;
}

const titleOf = ({ edition, made }: DeferredPart, place: Place): string =>
  `Edition ${edition} · ${formatInstant(made, 'moment', place)}`;

function headRow(part: DeferredPart, place: Place): Markup {
  return html`<tr><td class="rule" colspan="2" style="padding:26px 0 4px;border-bottom:1px solid ${INK}"><h2 class="ink" style="margin:0;font:500 15px/20px ${SERIF}"><a href="${part.link}" style="color:${INK};text-decoration:none">${titleOf(part, place)}</a></h2></td></tr>`;
}

function namedPart(named: DeferredPart[], before: number, place: Place): Parts {
  const shown = named.slice(-MOST_NAMED);
  const beyond = named.length - shown.length + before;
  const more = beyond > 0 ? `and ${beyond} before them` : '';
  const title = shown.length === 0 ? '' : 'Before these';
  const lines = shown.map((part) => html`<a href="${part.link}" style="color:${INK}">${titleOf(part, place)}</a><br>`);
  return {
    html: [
      html`<tr><td colspan="2" style="padding:26px 0 0"><h2 class="ink" style="margin:0 0 4px;font:500 15px/20px ${SERIF}">${title}</h2>${lines}<span class="third" style="font-size:12px;color:${THIRD}">${more}</span></td></tr>`,
    ],
    text: [[title, ...shown.map((part) => `${titleOf(part, place)}: ${part.link}`), more].filter(Boolean).join('\n')],
  };
}
