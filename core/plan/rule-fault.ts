import { describeRefusedRule, refuse } from '../judge/refuse';
import { isRanking, type RecordTest, type RuleDefinition } from '../judge/rule';
import type { ActiveHours } from '../judge/throttle';
import { checkWords } from '../tell/wording';
import { MINUTE } from '../when/interval';
import { isDay } from '../when/wall-clock';

/** What is said of hours that are none. */
export const NO_HOURS = 'Say between which times of day it is told, as 08:00 and 18:00.';

/**
 * What is wrong with a whole rule on a watch that looks so often, however it was said: typed here, or written in a
 * document. A sentence; null where it can be kept.
 */
export function faultOf(rule: RuleDefinition, intervalMs: number): string | null {
  const refused = refuse(rule, intervalMs);
  return faultOfRelated(rule) ?? (refused === null ? null : describeRefusedRule(refused));
}

function faultOfRelated({ only = [], steps = [], ends, wording = {}, telling }: RuleDefinition): string | null {
  if (only.some(isBlankTest))
    return 'Say for which records it is: a name, a property or a field to go by, and what it has to say.';
  if (steps.some(({ audiences }) => audiences.length === 0)) return 'Say who is told where nobody has taken it on.';
  if (ends !== undefined && !isDay(ends.date)) return 'Say its last day as 2026-12-31.';
  if ([telling?.remindEvery, telling?.atMostEvery].some((every) => every !== undefined && every < MINUTE))
    return 'Tell it again, or nothing more, after a minute at the least.';
  return hoursFault(telling?.hours) ?? wordsFault(wording);
}

function hoursFault(hours: ActiveHours | undefined): string | null {
  if (hours?.days.length === 0) return 'Say on which days it is told.';
  return hours !== undefined && hours.from === hours.to ? NO_HOURS : null;
}

function wordsFault(wording: NonNullable<RuleDefinition['wording']>): string | null {
  const words = Object.values(wording).flatMap(({ subject = '', line = '' }) => [subject, line]);
  const strange = words.map(checkWords).find((checked) => !checked.ok);
  return strange?.ok === false ? strange.error : null;
}

function isBlankTest(test: RecordTest): boolean {
  if (test.by === 'name') return test.holds.trim() === '';
  if (isRanking(test)) return test.count < 1 || test.field === '';
  return 'is' in test && test.is.trim() === '' && test.by !== 'label';
}
