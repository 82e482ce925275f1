import { digestMail } from '#core/tell/edition/digest-mail';
import type { Message } from '#core/tell/mail-frame';
import type { Place } from '#core/when/format';
import type { EditionNow } from '#server/db/editions';
import { services } from '../../services.server';

/** An edition as somebody who signed in reads it: without a number, and without marks; null of what was told at once. */
export function editionMail({ document, id, name, number, madeAt }: EditionNow, reader: { name: string; place: Place }): Message | null {
  const { config } = services();
  if (document === null) return null;
  return digestMail({
    document,
    report: name,
    edition: number,
    readerName: reader.name,
    readerNumber: null,
    made: madeAt,
    reportLink: `${config.publicUrl}/editions/${id}`,
    home: config.publicUrl,
    told: new Map(),
    next: null,
    place: reader.place,
  });
}
