import { digestMail } from '#core/tell/edition/digest-mail';
import { alertMail } from '#core/tell/mail';
import { WHOLE, type Message } from '#core/tell/mail-frame';
import { noticeMail } from '#core/tell/notice-mail';
import type { Place } from '#core/when/format';
import type { EditionContents } from '#server/db/report/edition-contents';
import { noticeItem } from '#server/pipeline/order/notices';
import { services } from '../services.server';

/** An edition as somebody who signed in reads it: without a number, and without marks. */
export function editionMail(
  { document, alerts, notices, id, name, number, madeAt }: EditionContents & { name: string },
  reader: { name: string; place: Place },
): Message {
  const { publicUrl } = services().config;
  const frame = {
    report: name,
    edition: number,
    readerName: reader.name,
    readerNumber: null,
    made: madeAt,
    reportLink: `${publicUrl}/editions/${id}`,
    place: reader.place,
  };
  if (document !== null) return digestMail({ ...frame, document, home: publicUrl, told: new Map(), next: null });
  if (alerts.length === 0)
    return noticeMail({ ...frame, notices: notices.map((notice) => noticeItem(publicUrl, notice)) });
  return alertMail({
    ...frame,
    coverage: WHOLE,
    alerts: alerts.map(({ id: alert, news, watchId }) => ({ news, alert, watch: `${publicUrl}/watches/${watchId}` })),
  });
}
