import { QUOTAS, quotaFault, type Quota, type QuotaOf } from '#core/tell/quota';
import { fail, ok, type Result } from '#core/result';
import { writtenIn } from '../../../form.server';

/** A bound as the page sends it: an empty field bounds nothing. The error is a sentence. */
export function readQuota(form: FormData): Result<{ of: QuotaOf; said: Quota }, string> {
  const of = QUOTAS.find((each) => each === form.get('of'));
  if (of === undefined) return fail('There is nothing of that name to bound. Load the page again.');
  const field = (name: string): number | null => {
    const text = writtenIn(form, name).trim();
    return text === '' ? null : /^\d{1,9}$/.test(text) ? Number(text) : Number.NaN;
  };
  const said: Quota = {
    anHour: of === 'texts' ? null : field('anHour'),
    aDay: of === 'texts' ? null : field('aDay'),
    aMonth: of === 'texts' ? field('aMonth') : null,
  };
  const fault = quotaFault(said);
  return fault === null ? ok({ of, said }) : fail(fault);
}
