import type { EditionId } from '#core/id';
import { data } from 'react-router';
import { FILE_FORMS, type FileForm } from '#core/tell/definition';
import { editionRows, rowsAtOnce } from '#core/tell/edition/sheet';
import type { Place } from '#core/when/format';
import { findEdition, findFile, type EditionNow } from '#server/db/report/editions';
import { editionFile, fileName, FILE_TYPES } from '#server/files/edition-files';
import { placeOf } from '#server/db/person/people';
import type { Db } from '#server/db/base/pool';
import { linesIn } from '#server/pipeline/report/gather';
import { readLongId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/as';
import { spanOf } from './lines.server';
import { editionMail } from '../../../parts/edition-mail.server';

const TYPES = { ...FILE_TYPES, html: 'text/html; charset=utf-8', txt: 'text/plain; charset=utf-8' } as const;
type Form = keyof typeof TYPES;

/** An edition as a file: as it reads, or every line of its stretch as data. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'report' });
  const form = params.form as Form;
  if (!Object.hasOwn(TYPES, params.form))
    throw data('An edition can be had as CSV, XLSX, JSON, HTML or plain text.', { status: 404 });
  const edition = await findEdition(services().pool, readLongId<EditionId>(params.edition));
  if (edition === null) throw data('There is no such edition.', { status: 404 });
  return new Response(await bodyOf(form, edition, { ...person, place: placeOf(person) }), {
    headers: {
      'content-type': TYPES[form],
      'content-disposition': `attachment; filename="${fileName(edition.name)}-${edition.number}.${form}"`,
      'x-content-type-options': 'nosniff',
    },
  });
}

const isData = (form: Form): form is FileForm => FILE_FORMS.some((each) => each === form);

async function bodyOf(
  form: Form,
  edition: EditionNow,
  reader: { name: string; place: Place },
): Promise<string | Uint8Array<ArrayBuffer>> {
  if (!isData(form)) {
    const mail = editionMail(edition, reader);
    return form === 'html' ? services().pictures.pageOf(mail.html) : mail.text;
  }
  const { pool } = services();
  const kept = await findFile(pool, edition.id, form);
  return new Uint8Array(kept ?? (await fileNow(pool, form, edition)));
}

/** A file that its mails did not bear is made of its stretch, or of what was told at once. */
async function fileNow(pool: Db, form: FileForm, edition: EditionNow): Promise<Buffer> {
  const { report, document, order, name, number } = edition;
  const span = spanOf(edition);
  const rows =
    document === null ? rowsAtOnce(edition) : editionRows(await linesIn(pool, report, order, span, document.share));
  return editionFile(form, rows, {
    report: name,
    edition: number,
    from: span.from,
    until: span.until,
    present: document?.present,
  });
}
