import type { RuleId, WatchId } from '../id';
import type { RuleDefinition } from '../judge/rule';
import type { Throttle } from '../judge/throttle';
import { formatInstant } from '../when/format';
import { describeInterval, type Interval } from '../when/interval';
import type { Called, SaidWatch } from './differences';
import { watchDifferences } from './differences';
import type { CompleteRule } from './rule-draft';

/** A watch as far as it can be changed with others. */
export interface BulkWatch extends SaidWatch {
  id: WatchId;
  name: string;
  state: 'running' | 'paused';
  tags: readonly string[];
}

/** What is done to many at once. */
export type BulkAction =
  | { do: 'start' | 'pause' | 'delete' }
  /** Each has a copy of it with its rules, which rests until it is started. */
  | { do: 'copy' }
  | { do: 'tag' | 'untag'; tags: string[] }
  | { do: 'look'; every: Interval }
  /** Rules are told to others. */
  | { do: 'tell'; audiences: string[] }
  | { do: 'end on'; ends: RuleDefinition['ends'] | null }
  | { do: 'switch'; off: boolean }
  /** Rules tell nobody until then; null takes them up again. */
  | { do: 'put off'; putOff: Throttle['putOff'] | null }
  | { do: 'end rules' };

/** What becomes of one watch: its parts as they would be, and that in words; nothing said where it stays as it is. */
export interface BulkStep {
  watch: WatchId;
  name: string;
  said: string[];
  state: BulkWatch['state'] | 'deleted';
  tags: readonly string[];
  frequency: Interval;
  rules: readonly CompleteRule[];
  /** It stays as it is, and has a copy. */
  copied?: true;
}

/** Which rules are meant: all of the watches, or those alone. */
type Meant = ReadonlySet<RuleId> | null;

/** What a deed would do to each of many watches. Rules are meant all, or those that are named. */
export function bulkSteps(watches: readonly BulkWatch[], deed: BulkAction, meant: Meant, called: Called): BulkStep[] {
  return watches.map((watch) => {
    if (deed.do === 'copy')
      return {
        ...partsOf(watch),
        watch: watch.id,
        name: watch.name,
        said: [`a copy of it: ${copyName(watch.name)}`],
        copied: true,
      };
    const next = { ...partsOf(watch), ...changeBy(watch, deed, meant) };
    return { ...next, watch: watch.id, name: watch.name, said: saidOf(watch, next, called) };
  });
}

const LONGEST_NAME = 120;

/** What a copy of a watch is called. */
export const copyName = (name: string): string => `Copy of ${name}`.slice(0, LONGEST_NAME);

type Parts = Pick<BulkStep, 'state' | 'tags' | 'frequency' | 'rules'>;

const partsOf = ({ state, tags, frequency, rules }: BulkWatch): Parts => ({ state, tags, frequency, rules });

function changeBy(watch: BulkWatch, deed: Exclude<BulkAction, { do: 'copy' }>, meant: Meant): Partial<Parts> {
  const rules = (change: (rule: CompleteRule) => CompleteRule) => ({
    rules: watch.rules.map((rule) => (isMeant(rule, meant) ? change(rule) : rule)),
  });
  const definitions = (change: Partial<RuleDefinition>) =>
    rules((rule) => ({ ...rule, definition: cleaned({ ...rule.definition, ...change }) }));
  switch (deed.do) {
    case 'start':
      return { state: 'running' };
    case 'pause':
      return { state: 'paused' };
    case 'delete':
      return { state: 'deleted' };
    case 'tag':
      return meant === null
        ? { tags: tagged(watch.tags, deed.tags) }
        : rules((rule) => withTags(rule, tagged(rule.definition.tags ?? [], deed.tags)));
    case 'untag':
      return meant === null
        ? { tags: untagged(watch.tags, deed.tags) }
        : rules((rule) => withTags(rule, untagged(rule.definition.tags ?? [], deed.tags)));
    case 'look':
      return { frequency: deed.every };
    case 'tell':
      return rules((rule) => ({ ...rule, audiences: deed.audiences }));
    case 'end on':
      return definitions({ ends: deed.ends ?? undefined });
    case 'switch':
      return definitions({ off: deed.off ? true : undefined });
    case 'put off':
      return rules((rule) => ({
        ...rule,
        definition: cleaned({ ...rule.definition, telling: putOffIn(rule.definition, deed.putOff ?? undefined) }),
      }));
    case 'end rules':
      return { rules: watch.rules.filter((rule) => !isMeant(rule, meant)) };
  }
}

/** How a rule is told that is put off until then, or taken up again; nothing where nothing else is said of that. */
function putOffIn({ telling = {} }: RuleDefinition, putOff: Throttle['putOff']): Throttle | undefined {
  const { putOff: _before, ...rest } = telling;
  const next = putOff === undefined ? rest : { ...rest, putOff };
  return Object.keys(next).length === 0 ? undefined : next;
}

const isMeant = ({ id }: CompleteRule, meant: Meant) => meant === null || (id !== null && meant.has(id));
const tagged = (tags: readonly string[], more: string[]) => [...new Set([...tags, ...more])].sort();
const untagged = (tags: readonly string[], less: string[]) => tags.filter((tag) => !less.includes(tag));
const withTags = (rule: CompleteRule, tags: string[]): CompleteRule => ({
  ...rule,
  definition: cleaned({ ...rule.definition, tags: tags.length === 0 ? undefined : tags }),
});

const cleaned = (rule: RuleDefinition): RuleDefinition =>
  Object.fromEntries(Object.entries(rule).filter(([, value]) => value !== undefined)) as unknown as RuleDefinition;

const STATES = { running: 'started', paused: 'paused', deleted: 'deleted' } as const;

/** What a change of its parts is, in words. */
function saidOf(watch: BulkWatch, next: Parts, called: Called): string[] {
  const tags = (each: readonly string[]) => each.join(', ') || 'nothing';
  return [
    ...(watch.state === next.state ? [] : [STATES[next.state]]),
    ...(tags(watch.tags) === tags(next.tags) ? [] : [`tags: ${tags(watch.tags)} → ${tags(next.tags)}`]),
    ...watchDifferences(watch, { definition: watch.definition, frequency: next.frequency, rules: next.rules }, called),
  ];
}

/** A deed in words, for so many: `Look every 2 hours`. */
export function actionWords(deed: BulkAction, { audiences }: Pick<Called, 'audiences'>): string {
  switch (deed.do) {
    case 'tag':
      return `Tag: ${deed.tags.join(', ')}`;
    case 'untag':
      return `Remove the tags ${deed.tags.join(', ')}`;
    case 'look':
      return `Run every ${describeInterval(deed.every)}`;
    case 'tell':
      return `Tell ${deed.audiences.map((key) => audiences.get(key) ?? key).join(', ')}`;
    case 'end on':
      return deed.ends == null ? 'Let them go on' : `Set ${deed.ends.date} as their last day`;
    case 'switch':
      return deed.off ? 'Switch off' : 'Switch on';
    case 'put off':
      return deed.putOff == null
        ? 'Take them up again'
        : 'Put them off until ' +
            `${formatInstant(deed.putOff.until, 'moment', { locale: 'en-GB', zone: deed.putOff.zone })}`;
    default:
      return { start: 'Start', pause: 'Pause', delete: 'Delete', copy: 'Copy', 'end rules': 'End' }[deed.do];
  }
}
