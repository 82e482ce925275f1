import { formatInstant, type Place } from '../when/format';
import type { Instant } from '../when/interval';
import { quoted } from '../words';
import { linkLetter } from './link-letter';
import type { Message } from './mail-frame';

/** The invitation of somebody who is told, to sign in and to have a hand in it. */
export interface InviteMail {
  readerName: string;
  address: string;
  invitedBy: string;
  /** The reports that reach her already. */
  reports: string[];
  link: string;
  until: Instant;
  place: Place;
}

const MOST_REPORTS = 5;

/** Renders an invitation. */
export function inviteMail({ readerName, address, invitedBy, reports, link, until, place }: InviteMail): Message {
  const hear = reports.length === 0 ? '' : ` What you get today goes on: ${quoted(reports, MOST_REPORTS)}.`;
  return linkLetter({
    subject: `${invitedBy} invites you to Shrike`,
    title: `${invitedBy} invites you to Shrike`,
    to: { name: readerName, address },
    lead: `${invitedBy} would like you to have a hand in what is watched and who hears of it.${hear}`,
    way: { words: 'Choose a password and sign in', link },
    then:
      'Who signs in can set up watches, say what matters and who is told, see why a mail came or did not, and take ' +
      'on what is raised. You will sign in with this address.',
    foot:
      `The link works once, and ends on ${formatInstant(until, 'moment', place)}. If you did not expect this, do ` +
      'nothing: nobody can sign in as you without it.',
    place,
  });
}
