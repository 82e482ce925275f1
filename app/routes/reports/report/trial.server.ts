import type { ReportId } from '#core/id';
import type { Person } from '#server/db/person/people';
import { textIn, writtenIn } from '../../../form.server';
import { sendToAsker } from '../../../parts/to-asker.server';
import { preview } from './preview.server';
import { readNumber } from '../../../ids.server';
import { readDefinition } from './shape.server';

/** Sends whoever asks the next edition as it stands: without a number, and nothing is marked as told (28). */
export async function sendTrial(form: FormData, id: ReportId, person: Person) {
  const order = readDefinition(writtenIn(form, 'order'));
  if (!order.ok) return { said: null, problem: order.error };
  const asked = { order: order.value, report: id === 0 ? null : id, name: textIn(form, 'name') };
  const mail = await preview({ ...asked, part: readNumber(form.get('part')) }, person);
  return mail.ok ? sendToAsker(person, 'Trial', mail.value) : { said: null, problem: mail.error };
}
