import type { Place } from '../../when/format';
import type { Instant } from '../../when/interval';
import type { MailFrame } from '../mail-frame';
import type { FileForm } from '../definition';
import type { EditionDocument } from './document';

/** What an edition tells one reader. */
export interface DigestPart {
  document: EditionDocument;
  place: Place;
  /** Where the whole of it is read. */
  reportLink: string;
  /** Where the app answers. */
  home: string;
  /** What the report and its reader are called, where her own words name them. */
  report?: string;
  readerName?: string;
  /** When she was told of an alert at once before this cut, by its number (20). */
  told: ReadonlyMap<number, Instant>;
}

/** An edition as one reader gets it. */
export interface DigestMail
  extends Omit<MailFrame, 'coverage'>, Omit<DigestPart, 'report' | 'readerName' | 'place' | 'reportLink'> {
  /** When the next edition is due; null where none is planned. */
  next: Instant | null;
  /** How many of its lines she was told before, and does not find here. */
  leftOut?: number;
  /** The files that come with it, and those too large for that. */
  files?: { attached: FileForm[]; tooLarge: FileForm[] };
}
