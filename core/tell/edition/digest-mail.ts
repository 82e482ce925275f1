import { formatInstant } from '../../when/format';
import { capital, countOf, listed } from '../../words';
import { framed, type MailFrame, type Message, type Parts } from '../mail-frame';
import type { FileForm } from '../definition';
import type { DigestMail, DigestPart } from './digest';
import { htmlBlocks } from './digest-html';
import { textBlocks } from './digest-text';
import { coverageWords, shareWords, subjectWords } from './words';

/** Renders an edition as a mail: the news in one sentence, then its tables, then what broke, then what it rests on. */
export function digestMail(mail: DigestMail): Message {
  const { document, place } = mail;
  const share = shareWords(document.share);
  const report = share === '' ? mail.report : `${mail.report}: ${share}`;
  const next = mail.next === null ? '' : ` The next is due ${formatInstant(mail.next, 'moment', place)}.`;
  const frame: MailFrame = {
    ...mail,
    report,
    coverage: `${coverageWords(document, place)}${leftOutWords(mail.leftOut)}${filesWords(mail.files)}${next}`,
  };
  return framed(frame, subjectWords(report, document, place, mail.readerName), digestParts(mail));
}

const leftOutWords = (lines = 0): string =>
  lines === 0
    ? ''
    : ` ${capital(countOf(lines, 'line'))} that you were told before ${lines === 1 ? 'is' : 'are'} left out.`;

/** `All 264 lines are attached as CSV and XLSX.` */
function filesWords(files: DigestMail['files']): string {
  if (files === undefined) return '';
  const { attached, tooLarge } = files;
  const named = (forms: FileForm[]) => listed(forms.map((form) => form.toUpperCase()));
  return [
    attached.length === 0 ? '' : ` Every line is attached as ${named(attached)}.`,
    tooLarge.length === 0 ? '' : ` As ${named(tooLarge)} it is too large for a mail: take it from Shrike.`,
  ].join('');
}

/** What a mail tells of an edition. */
export const digestParts = (mail: DigestPart): Parts => ({ html: htmlBlocks(mail), text: textBlocks(mail) });
