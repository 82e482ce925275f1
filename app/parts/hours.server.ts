import { fail, ok, type Result } from '#core/result';
import type { Weight } from '#core/judge/rule';
import type { Reachable } from '#core/tell/hold';
import { minutesOfDay } from '#core/when/cadence';
import { quietFault } from '#core/when/quiet';
import { textIn } from '../form.server';

const WEIGHTS: readonly string[] = ['low', 'usual', 'high'] satisfies Weight[];
const isWeight = (text: string): text is Weight => WEIGHTS.includes(text);

/** Reads the fields that say when a reader wants to be reached; the error is a sentence. */
export function readHours(form: FormData): Result<Omit<Reachable, 'zone'>, string> {
  const [from, to, hour] = ['quietFrom', 'quietTo', 'mailHour'].map((name) => minutesOfDay(textIn(form, name)));
  const passes = textIn(form, 'passes');
  const [isQuiet, gathers] = [form.get('isQuiet') === 'yes', form.get('gathers') === 'yes'];
  if (isQuiet && (from == null || to == null))
    return fail('Say when the quiet hours begin and end, as 22:00 and 07:00.');
  if (gathers && hour == null) return fail('Say at which time of day, as 17:00.');
  const quiet = isQuiet && from != null && to != null ? { from, to } : null;
  const fault = quiet === null ? null : quietFault(quiet);
  if (fault !== null) return fail(fault);
  return ok({ quiet, mailHour: gathers ? (hour ?? null) : null, passes: isWeight(passes) ? passes : null });
}
