import { formatInstant, type Place } from '../when/format';
import type { Instant } from '../when/interval';
import { quoted } from '../words';
import { linkLetter } from './link-letter';
import type { Message } from './mail-frame';

/** The question whether an address is hers, and whether she wants to hear. */
export interface ConfirmMail {
  readerName: string;
  address: string;
  askedBy: string;
  /** The reports that would reach her. */
  reports: string[];
  link: string;
  until: Instant;
  place: Place;
}

const MOST_REPORTS = 5;

/** Renders the first mail that an address gets: nothing else is sent to it before it is confirmed. */
export function confirmMail({ readerName, address, askedBy, reports, link, until, place }: ConfirmMail): Message {
  const hear = reports.length === 0 ? '' : ` You would get ${quoted(reports, MOST_REPORTS)}.`;
  return linkLetter({
    subject: `${askedBy} asks: may Shrike write to you?`,
    title: 'May Shrike write to you?',
    to: { name: readerName, address },
    lead: `${askedBy} would like you to hear from Shrike when something moves that matters to you.${hear}`,
    way: { words: 'Yes, confirm this address', link },
    then: 'Until you say yes nothing else is sent to this address. What there is to tell meanwhile is kept for you.',
    foot:
      `The link ends on ${formatInstant(until, 'moment', place)}. If you did not expect this, do nothing: you will ` +
      'hear nothing more.',
    place,
  });
}
