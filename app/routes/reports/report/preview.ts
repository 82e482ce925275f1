import type { ReportId } from '#core/id';
import { readForm, textIn, writtenIn } from '../../../form.server';
import { readId, readNumber } from '../../../ids.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/preview';
import { previewShown, type Previewed } from './preview.server';
import { readDefinition } from './shape.server';

/** What a report would tell as it is said now, while it is said. */
export type PreviewAnswer = { shown: Previewed } | { problem: string };

export async function action({ request, context }: Route.ActionArgs): Promise<PreviewAnswer> {
  const person = asks(context, 'see', { kind: 'report' });
  const form = await readForm(request);
  const order = readDefinition(writtenIn(form, 'order'));
  if (!order.ok) return { problem: order.error };
  const report = readId<ReportId>(form.get('report'));
  const asked = { order: order.value, report: report === 0 ? null : report, name: textIn(form, 'name') };
  const shown = await previewShown({ ...asked, part: readNumber(form.get('part')) }, person);
  return shown.ok ? { shown: shown.value } : { problem: shown.error };
}
