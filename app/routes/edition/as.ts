import type { EditionId } from '#core/id';
import { data } from 'react-router';
import type { Message } from '#core/tell/mail-frame';
import { editionCsv, editionRows } from '#core/tell/edition/sheet';
import { findEdition, type EditionNow } from '#server/db/editions';
import { placeOf } from '#server/db/people';
import { linesIn } from '#server/pipeline/report/gather';
import { readLongId } from '../../ids.server';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import type { Route } from './+types/as';
import { editionMail } from '../../parts/edition-mail.server';

const TYPES = { csv: 'text/csv', json: 'application/json', html: 'text/html', txt: 'text/plain' } as const;
type Form = keyof typeof TYPES;

/** An edition as a file: as it reads, or every line of its stretch as data. */
export async function loader({ params, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'report' });
  const form = params.form as Form;
  if (!(params.form in TYPES)) throw data('An edition can be had as CSV, JSON, HTML or plain text.', { status: 404 });
  const edition = await findEdition(services().pool, readLongId<EditionId>(params.edition));
  if (edition === null) throw data('There is no such edition.', { status: 404 });
  if (edition.document === null && (form === 'csv' || form === 'json'))
    throw data('This edition was told at once: it can be had as HTML or plain text.', { status: 404 });
  const mail = editionMail(edition, { ...person, place: placeOf(person) });
  return new Response(await bodyOf(form, edition, mail), {
    headers: {
      'content-type': `${TYPES[form]}; charset=utf-8`,
      'content-disposition': `attachment; filename="edition-${edition.number}.${form}"`,
      'x-content-type-options': 'nosniff',
    },
  });
}

async function bodyOf(form: Form, edition: EditionNow, mail: Message): Promise<string> {
  if (form === 'html') return mail.html;
  if (form === 'txt') return mail.text;
  const { report, document, order, fromSeq, toSeq, fromAt, madeAt, name, number } = edition;
  const span = { fromSeq, toSeq, from: fromAt ?? madeAt, until: madeAt };
  const lines = await linesIn(services().pool, report, order, span, document?.share ?? null);
  if (form === 'csv') return editionCsv(lines);
  const covers = { from: new Date(span.from).toISOString(), until: new Date(madeAt).toISOString() };
  return JSON.stringify({ report: name, edition: number, covers, lines: editionRows(lines) }, null, 1);
}
