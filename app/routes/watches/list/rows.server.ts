import { chainOf, firstBroken, type Link as ChainLink } from '#core/tell/chain';
import { formatValue } from '#core/value/format';
import { isMeasure } from '#core/value/value';
import { formatRecent, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { Spark } from '#server/db/reading/views/sparks';
import { chainFactsOf, type WatchNow } from '#server/db/watch/views/watch-now';
import { chainWords } from '../../../parts/chain';
import { ROW_SPARK, sparkShape, type SparkShape } from '../../../parts/charts/sparkline';

/** What a row of the list says, ready to be shown: a list is looked at again and again, by many. */
export interface Row {
  id: number;
  subject: string;
  site: string;
  present: string;
  stale: boolean;
  spark: SparkShape | null;
  beads: ChainLink['state'][];
  /** The chain in words. */
  chain: string;
  standing: string;
  tone: 'usual' | 'raised' | 'broken';
  nextDue: Instant | null;
  tags: string[];
  /** The heading that it stands under. */
  group: string | null;
}

/**
 * Why a rule of a watch, by its place among them, could not have been met so far; null where it could, or it is not
 * known.
 */
export type NeverOf = (watch: WatchNow, rule: number) => string | null;

/** The row of a watch. */
export function rowOf(
  watch: WatchNow,
  sparks: Map<number, Spark>,
  never: NeverOf,
  now: Instant,
  place: Place,
): Omit<Row, 'group'> {
  const facts = chainFactsOf(watch, place.locale);
  const rules = facts.rules.map((rule, at) => ({ ...rule, never: never(watch, at) }));
  const chain = chainOf({ ...facts, rules }, now, place);
  const series = watch.series.find(({ value }) => isMeasure(value));
  const spark = series === undefined ? undefined : sparks.get(series.id);
  const points = spark?.at.map((at, index) => ({ at, height: spark.height[index] ?? 0 })) ?? [];
  return {
    id: watch.id,
    subject: watch.definition.subject,
    site: watch.site,
    present: presentWords(watch, place.locale),
    stale: watch.problem !== null,
    spark: sparkShape(points, { ...ROW_SPARK, until: now }),
    beads: chain.map((link) => link.state),
    chain: chainWords(chain),
    ...standing(watch, chain, rules.length > 0 && rules.every((rule) => rule.never !== null), now, place),
    nextDue: watch.nextDue,
    tags: watch.tags,
  };
}

function presentWords(watch: WatchNow, locale: string): string {
  const shown = watch.series.filter((series) => watch.definition.fields.some((field) => field.key === series.field));
  const [first] = shown;
  if (watch.recordCount > 1) return `${watch.recordCount} records${watch.problem === null ? '' : ', stale'}`;
  return first === undefined
    ? '–'
    : `${cutWords(formatValue(first.value, locale))}${watch.problem === null ? '' : ', stale'}`;
}

const MOST_WORDS = 80;
const cutWords = (text: string) => (text.length > MOST_WORDS ? `${text.slice(0, MOST_WORDS)}…` : text);

function standing(
  watch: WatchNow,
  chain: ChainLink[],
  cannotFire: boolean,
  now: Instant,
  place: Place,
): Pick<Row, 'standing' | 'tone'> {
  const broken = firstBroken(chain);
  if (watch.state === 'paused') return { standing: 'paused', tone: 'usual' };
  if (broken !== null) return { standing: broken.said, tone: 'broken' };
  const { rules } = watch;
  if (rules.length === 0) return { standing: 'only recorded', tone: 'usual' };
  const raised = rules.filter(({ state }) => state === 'raised');
  if (raised.length > 0) {
    const since = formatRecent(Math.max(...raised.map((rule) => rule.since ?? now)), now, place);
    return {
      standing:
        rules.length === 1 ? `raised since ${since}` : `${raised.length} of ${rules.length} raised since ${since}`,
      tone: 'raised',
    };
  }
  return { standing: cannotFire ? 'not met by anything so far' : calmWords(rules), tone: 'usual' };
}

function calmWords(rules: WatchNow['rules']): string {
  if (rules.some(({ state }) => state === 'holding')) return 'met, not yet for long enough';
  if (rules.some(({ waiting }) => waiting)) return 'met already, waiting';
  return rules.every(({ state }) => (state ?? 'undecided') === 'undecided') ? 'undecided' : 'calm';
}

/** The heading under which a watch stands. */
export function groupOf(watch: WatchNow, by: 'site' | 'source' | 'owner' | 'tag' | 'state'): string {
  switch (by) {
    case 'site':
      return watch.site;
    case 'source':
      return watch.address;
    case 'owner':
      return watch.owner;
    case 'tag':
      return watch.tags[0] ?? 'no tag';
    case 'state':
      return stateOf(watch);
  }
}

function stateOf({ state, problem, rules }: WatchNow): string {
  if (state === 'paused') return 'paused';
  if (problem !== null) return 'not read';
  return rules.some((rule) => rule.state === 'raised') ? 'raised' : 'calm';
}
