import { formatInstant } from '../../when/format';
import { frameHtml, frameText, oneLine, type MailFrame, type Message } from '../mail-frame';
import type { DigestMail } from './digest';
import { htmlBlocks } from './digest-html';
import { textBlocks } from './digest-text';
import { coverageWords, subjectWords } from './words';

/** Renders an edition as a mail: the news in one sentence, then its tables, then what broke, then what it rests on. */
export function digestMail(mail: DigestMail): Message {
  const { document, place, report } = mail;
  const next = mail.next === null ? '' : ` The next is due ${formatInstant(mail.next, 'moment', place)}.`;
  const frame: MailFrame = { ...mail, coverage: `${coverageWords(document, place)}${next}` };
  return {
    subject: oneLine(subjectWords(report, document, place)),
    html: frameHtml(frame, htmlBlocks(mail)).markup,
    text: frameText(frame, textBlocks(mail)),
  };
}
