import Joi from 'joi';
import { fail, ok, type Result } from '#core/result';
import type { HostSettings } from '#server/db/hosts';

const LONGEST_PAUSE_SECONDS = 3600;

const schema = Joi.object<{ mostAtOnce: number; pause: number }>({
  mostAtOnce: Joi.number().integer().min(1).max(50).required(),
  pause: Joi.number().min(0).max(LONGEST_PAUSE_SECONDS).required(),
});

/** What was said of a host in a form; the error is a sentence. */
export function readHostSettings(form: FormData): Result<HostSettings, string> {
  const read = schema.validate({ mostAtOnce: form.get('mostAtOnce'), pause: form.get('pause') });
  if (read.error !== undefined) return fail('Between 1 and 50 at once, and a pause of at most an hour.');
  const { value } = read;
  return ok({ mostAtOnce: value.mostAtOnce, pauseMs: Math.round(value.pause * 1000), robotsHeeded: form.get('robots') !== 'not' });
}
