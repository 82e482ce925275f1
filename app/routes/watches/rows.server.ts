import { chainOf, firstBroken, type Link as ChainLink } from '#core/tell/chain';
import { formatValue } from '#core/value/format';
import { isMeasure } from '#core/value/value';
import { formatDuration, formatRecent, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { Spark } from '#server/db/sparks';
import { chainFactsOf, type WatchNow } from '#server/db/watch-page';
import { chainWords } from '../../parts/chain';
import { ROW_SPARK, sparkShape, type SparkShape } from '../../parts/sparkline';

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
  next: string;
}

/** A watch with its chain, and the lists that it belongs in. */
export interface Stand {
  watch: WatchNow;
  chain: ChainLink[];
  filters: ('all' | 'raised' | 'broken' | 'paused')[];
}

/** How a watch stands at a moment. */
export function standOf(watch: WatchNow, now: Instant, place: Place): Stand {
  const chain = chainOf(chainFactsOf(watch, place.locale), now, place);
  const stand: Stand = { watch, chain, filters: ['all'] };
  if (watch.rule?.state === 'raised' && !watch.rule.waiting) stand.filters.push('raised');
  if (firstBroken(chain) !== null) stand.filters.push('broken');
  if (watch.state === 'paused') stand.filters.push('paused');
  return stand;
}

/** Whether a watch goes by some words, or is at a pasted address. */
export function matches({ watch }: Stand, query: string): boolean {
  const words = `${watch.definition.subject} ${watch.site} ${watch.address}`.toLowerCase();
  return query === '' || words.includes(query) || watch.address.toLowerCase().replace(/\/$/, '') === query.replace(/\/$/, '');
}

/** The row of a watch. */
export function rowOf(stand: Stand, sparks: Map<number, Spark>, now: Instant, place: Place): Row {
  const { watch, chain } = stand;
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
    ...standing(stand, now, place),
    next: nextWords(watch, now),
  };
}

function presentWords(watch: WatchNow, locale: string): string {
  const shown = watch.series.filter((series) => watch.definition.fields.some((field) => field.key === series.field));
  const [first] = shown;
  if (watch.recordCount > 1) return `${watch.recordCount} records${watch.problem === null ? '' : ', stale'}`;
  return first === undefined ? '–' : `${cutWords(formatValue(first.value, locale))}${watch.problem === null ? '' : ', stale'}`;
}

const MOST_WORDS = 80;
const cutWords = (text: string) => (text.length > MOST_WORDS ? `${text.slice(0, MOST_WORDS)}…` : text);

function standing({ watch, chain }: Stand, now: Instant, place: Place): Pick<Row, 'standing' | 'tone'> {
  const broken = firstBroken(chain);
  if (watch.state === 'paused') return { standing: 'paused', tone: 'usual' };
  if (broken !== null) return { standing: broken.said, tone: 'broken' };
  const { rule } = watch;
  if (rule === null) return { standing: 'only recorded', tone: 'usual' };
  if (rule.state === 'raised' && !rule.waiting) return { standing: `raised since ${formatRecent(rule.since ?? now, now, place)}`, tone: 'raised' };
  return { standing: rule.waiting ? 'met already, waiting' : (rule.state ?? 'undecided'), tone: 'usual' };
}

function nextWords(watch: WatchNow, now: Instant): string {
  if (watch.nextDue === null) return '–';
  return watch.nextDue <= now ? 'now' : `in ${formatDuration(watch.nextDue - now)}`;
}
