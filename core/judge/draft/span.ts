import { fail, ok, type Result } from '../../result';
import { DAY, HOUR, MINUTE } from '../../when/interval';

/** A length of time as it is typed. */
export interface SpanDraft {
  count: string;
  unit: 'minute' | 'hour' | 'day';
}

export const NO_SPAN: SpanDraft = { count: '', unit: 'hour' };

const LENGTHS = { minute: MINUTE, hour: HOUR, day: DAY } as const;

/** A length of time that is typed, in ms. */
export function spanned<T>({ count, unit }: SpanDraft, make: (ms: number) => T): Result<T, string> {
  const length = Number(count.trim().replace(',', '.'));
  if (!/^\d{1,6}([.,]\d{1,2})?$/.test(count.trim()) || length <= 0) return fail('Say how long.');
  return ok(make(Math.round(length * LENGTHS[unit])));
}

/** A length of time as it would be typed. */
export function spanDraftOf(ms: number): SpanDraft {
  for (const unit of ['day', 'hour', 'minute'] as const)
    if (ms % LENGTHS[unit] === 0) return { count: String(ms / LENGTHS[unit]), unit };
  return { count: (ms / MINUTE).toFixed(2), unit: 'minute' };
}
