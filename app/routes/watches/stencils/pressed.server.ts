import type { RuleId, WatchId } from '#core/id';
import { namesOf } from '#core/judge/words';
import { describeCondition } from '#core/judge/describe';
import type { RuleDefinition } from '#core/judge/rule';
import { watchDifferences, type Called } from '#core/plan/differences';
import { labelOf } from '#core/plan/plan';
import { markOf, press, type Target } from '#core/plan/stencil';
import { withNumber } from '#core/read/all-records';
import { intervalLength } from '#core/when/interval';
import { bulkOf } from '#server/actions/bulk';
import type { StencilNow } from '#server/db/watch/stencils';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { presentOf } from '../../../parts/plan/present';

/** What a stencil would make on a watch, or why nothing; and whether it did already. */
export interface WouldMake {
  watch: WatchId;
  name: string;
  site: string;
  says: string | null;
  because: string | null;
  has: boolean;
}

/** A rule that a stencil made, and how it stands to what the stencil says now. */
export interface MadeRule {
  watch: WatchId;
  name: string;
  rule: RuleId;
  says: string;
  stands: 'as made' | 'behind' | 'by hand';
  /** What taking the change over would do, in words; or why it cannot be. */
  offered: string[];
}

/** A watch as a stencil finds it. */
const targetOf = (watch: WatchNow): Target => ({
  fields: withNumber(watch.definition),
  present: presentOf(watch),
  intervalMs: intervalLength(watch.frequency),
  audiences: [...new Set(watch.rules.flatMap(({ audiences }) => audiences))],
});

const sayRule = (rule: RuleDefinition, { definition: { fields } }: WatchNow, locale: string): string =>
  describeCondition(
    rule.when,
    namesOf((key) => labelOf(fields, key), locale),
  );

/** The rule that a stencil makes on a watch, knowing what it was made by. */
export function made(stencil: StencilNow, watch: WatchNow) {
  const pressed = press(stencil, targetOf(watch));
  if (!pressed.ok) return pressed;
  const { definition, audiences } = pressed.value;
  const from = {
    kind: 'stencil' as const,
    id: stencil.id,
    name: stencil.name,
    version: stencil.version,
    made: markOf(definition),
  };
  return { ok: true as const, value: { id: null, definition: { ...definition, from }, audiences } };
}

/** Whether a watch has a rule of a stencil already. */
export const hasOne = ({ id }: StencilNow, { rules }: WatchNow): boolean =>
  rules.some(({ definition: { from } }) => from?.kind === 'stencil' && from.id === id);

/** What a stencil would make on each of some watches. */
export function wouldMake(stencil: StencilNow, watches: readonly WatchNow[], locale: string): WouldMake[] {
  return watches.map((watch) => {
    const rule = made(stencil, watch);
    const said = { watch: watch.id, name: watch.definition.subject, site: watch.site, has: hasOne(stencil, watch) };
    return rule.ok
      ? { ...said, says: sayRule(rule.value.definition, watch, locale), because: null }
      : { ...said, says: null, because: rule.error };
  });
}

/** The rules that a stencil made on some watches, those that were edited by hand among them. */
export function rulesMade(stencil: StencilNow, watches: readonly WatchNow[], called: Called): MadeRule[] {
  return watches.flatMap((watch) =>
    watch.rules.flatMap(({ id, definition, audiences }): MadeRule[] => {
      const { from } = definition;
      if (from?.kind !== 'stencil' || from.id !== stencil.id) return [];
      const said = {
        watch: watch.id,
        name: watch.definition.subject,
        rule: id,
        says: sayRule(definition, watch, called.locale),
      };
      const byHand = markOf(definition) !== from.made;
      if (from.version === stencil.version) return [{ ...said, stands: byHand ? 'by hand' : 'as made', offered: [] }];
      const next = made(stencil, watch);
      if (!next.ok) return [{ ...said, stands: byHand ? 'by hand' : 'behind', offered: [next.error] }];
      const present = bulkOf(watch);
      const rules = present.rules.map((rule) =>
        rule.id === id ? { ...next.value, id, audiences: kept(stencil, audiences, next.value.audiences) } : rule,
      );
      return [
        {
          ...said,
          stands: byHand ? 'by hand' : 'behind',
          offered: watchDifferences(present, { ...present, rules }, called),
        },
      ];
    }),
  );
}

/** Those whom a rule tells stay, where the stencil leaves that to the watch. */
export const kept = ({ readers }: StencilNow, present: readonly string[], said: readonly string[]): string[] =>
  readers.are === 'named' ? [...said] : [...present];
