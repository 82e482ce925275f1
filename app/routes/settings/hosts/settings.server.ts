import Joi from 'joi';
import { fail, ok, type Result } from '#core/result';
import type { HostSettings } from '#server/db/source/hosts';

const LONGEST_PAUSE_SECONDS = 3600;

const schema = Joi.object<{ mostAtOnce: number; pause: number; runsADay: number | null }>({
  mostAtOnce: Joi.number().integer().min(1).max(50).required(),
  runsADay: Joi.number().integer().min(1).max(1_000_000).empty('').default(null),
  pause: Joi.number().min(0).max(LONGEST_PAUSE_SECONDS).required(),
});

/** What was said of a host in a form; the error is a sentence. */
export function readHostSettings(form: FormData): Result<HostSettings, string> {
  const read = schema.validate({
    mostAtOnce: form.get('mostAtOnce'),
    pause: form.get('pause'),
    runsADay: form.get('runsADay') ?? '',
  });
  if (read.error !== undefined)
    return fail(
      'Between 1 and 50 at once, a pause of at most an hour, and from 1 to 1,000,000 runs a day, or none said.',
    );
  const { value } = read;
  return ok({
    mostAtOnce: value.mostAtOnce,
    pauseMs: Math.round(value.pause * 1000),
    robotsHeeded: form.get('robots') !== 'not',
    runsADay: value.runsADay,
  });
}
