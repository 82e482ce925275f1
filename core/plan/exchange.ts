import { DateTime } from 'luxon';
import type { PersonId, SiteId, WatchId } from '../id';
import type { Asked } from '../judge/asked';
import { childrenOf, withAsked, type Condition } from '../judge/clause';
import { asksOfRule, type RuleDefinition } from '../judge/rule';
import type { WatchDefinition } from '../read/definition';
import { fail, ok, type Result } from '../result';
import { intervalLength, type Instant, type Interval } from '../when/interval';
import { watchDifferences, type Called, type SaidWatch } from './differences';
import { checkFrequency, readingFault } from './plan';
import { faultOf } from './rule-fault';

// Watches with their rules as a document that goes from one Shrike to another, or out and back. Numbers in it are those
// of where it was written; whoever reads it finds people by their address, lists and channels by their name, and
// watches by what they read.

/**
 * A rule in a document: as it is kept, with those whom it tells as `list:Pricing` or `person:ravi@heatherlow.example`.
 */
export interface ExchangedRule extends Omit<RuleDefinition, 'owner'> {
  tells: string[];
  /** The address of whoever answers for it. */
  owner?: string;
}

/** A watch in a document. */
export interface ExchangedWatch {
  number: number;
  address: string;
  way: string;
  request: object;
  site: string;
  every: Interval;
  state: 'running' | 'paused';
  tags: string[];
  reads: WatchDefinition;
  rules: ExchangedRule[];
}

/** A document of watches. */
export interface Exchange {
  format: 'shrike watches';
  version: 1;
  written: string;
  /** The names of channels that rules speak of, by their numbers. */
  channels: Record<string, string>;
  watches: ExchangedWatch[];
}

/** A watch that is written out. */
export interface WrittenWatch extends SaidWatch {
  id: WatchId;
  address: string;
  way: string;
  request: object;
  site: string;
  state: 'running' | 'paused';
  tags: readonly string[];
}

/** By which names people, lists and channels are known outside, and back. */
export interface Names {
  /** `list:3` as `list:Pricing`. */
  audiences: ReadonlyMap<string, string>;
  owners: ReadonlyMap<PersonId, string>;
  channels: ReadonlyMap<SiteId, string>;
}

/** Writes watches out as a document. */
export function writeExchange(watches: readonly WrittenWatch[], names: Names, now: Instant): Exchange {
  const spoken = new Set(
    watches.flatMap(({ rules }) =>
      rules.flatMap(({ definition }) => asksOfRule(definition).flatMap(({ channel }) => channel ?? [])),
    ),
  );
  const called = (key: string) => names.audiences.get(key) ?? key;
  return {
    format: 'shrike watches',
    version: 1,
    written: DateTime.fromMillis(now, { zone: 'utc' }).toISO() ?? '',
    channels: Object.fromEntries(
      [...names.channels].filter(([id]) => spoken.has(id)).map(([id, name]) => [String(id), name]),
    ),
    watches: watches.map((watch) => ({
      number: watch.id,
      address: watch.address,
      way: watch.way,
      request: watch.request,
      site: watch.site,
      every: watch.frequency,
      state: watch.state,
      tags: [...watch.tags],
      reads: watch.definition,
      rules: watch.rules.map(({ definition: { owner, steps, ...definition }, audiences }) => ({
        ...definition,
        ...(steps === undefined
          ? {}
          : { steps: steps.map((step) => ({ ...step, audiences: step.audiences.map(called) })) }),
        ...(owner === undefined ? {} : { owner: names.owners.get(owner) ?? '' }),
        tells: audiences.map(called),
      })),
    })),
  };
}

/** What there is where a document is read. */
export interface Here {
  watches: readonly WrittenWatch[];
  names: Names;
  called: Called;
}

/** What one watch of a document would do. */
export interface ExchangeLine {
  /** Its place in the document, from one. */
  line: number;
  name: string;
  does: 'adds' | 'changes' | 'nothing' | 'refused';
  said: string[];
  /** The watch here that it changes; null of one that it adds. */
  watch: WatchId | null;
  /** What it would be; null where it is refused. */
  plan: (SaidWatch & Pick<ExchangedWatch, 'address' | 'way' | 'request' | 'site' | 'state' | 'tags'>) | null;
}

/** What a document would do, watch by watch: nothing of it is done yet. */
export function readExchange(document: Exchange, here: Here): ExchangeLine[] {
  const local = new Map(document.watches.map((watch) => [watch.number, matching(watch, here.watches)?.id ?? null]));
  const taken = new Set<WatchId | string>();
  return document.watches.map((watch, at): ExchangeLine => {
    const line = { line: at + 1, name: watch.reads.subject };
    const refused = (...said: string[]): ExchangeLine => ({ ...line, does: 'refused', said, watch: null, plan: null });
    const present = matching(watch, here.watches);
    const same = present?.id ?? [watch.address, watch.way, watch.reads.subject].join('\n');
    if (taken.has(same)) return refused('Another line of this document says the same watch.');
    taken.add(same);
    const frequency = checkFrequency(watch.every);
    const fault = readingFault(watch.reads) ?? (frequency.ok ? null : frequency.error);
    if (fault !== null) return refused(fault);
    const rules = rulesOf(watch, document, present, local, here);
    if (!rules.ok) return refused(...rules.error);
    const { address, way, request, site, every, state, tags, reads } = watch;
    const plan = { address, way, request, site, state, tags, definition: reads, frequency: every, rules: rules.value };
    if (present === null)
      return {
        ...line,
        does: 'adds',
        said: [`${rules.value.length === 1 ? 'one rule' : `${rules.value.length} rules`}, ${address}`],
        watch: null,
        plan,
      };
    const said = differences(present, plan, here.called);
    return { ...line, does: said.length === 0 ? 'nothing' : 'changes', said, watch: present.id, plan };
  });
}

function differences(present: WrittenWatch, plan: NonNullable<ExchangeLine['plan']>, called: Called): string[] {
  const tags = (each: readonly string[]) => [...each].sort().join(', ') || 'nothing';
  return [
    ...(present.state === plan.state ? [] : [plan.state === 'paused' ? 'paused' : 'started']),
    ...(tags(present.tags) === tags(plan.tags) ? [] : [`tags: ${tags(present.tags)} → ${tags(plan.tags)}`]),
    ...watchDifferences(present, plan, called),
  ];
}

/** The watch here that a document means: of its number at its address, else of its name there. */
function matching(
  { number, address, way, reads }: ExchangedWatch,
  watches: readonly WrittenWatch[],
): WrittenWatch | null {
  const there = watches.filter((watch) => watch.address === address && watch.way === way);
  return (
    there.find(({ id }) => id === number) ??
    there.find(({ definition }) => definition.subject === reads.subject) ??
    null
  );
}

type LocalNumbers = ReadonlyMap<number, WatchId | null>;

function rulesOf(
  watch: ExchangedWatch,
  document: Exchange,
  present: WrittenWatch | null,
  local: LocalNumbers,
  here: Here,
): Result<SaidWatch['rules'], string[]> {
  const troubles: string[] = [];
  const rules = watch.rules.map(({ tells, owner, steps, ...said }, at) => {
    const trouble = (sentence: string) => void troubles.push(`Rule ${at + 1}: ${sentence}`);
    const known = (called: string) =>
      keyCalled(here.names.audiences, called) ?? (trouble(`nobody here goes by “${called.slice(0, 80)}”.`), []);
    const audiences = tells.flatMap(known);
    const next = steps?.map((step) => ({ ...step, audiences: step.audiences.flatMap(known) }));
    const answers = owner === undefined ? undefined : keyCalled(here.names.owners, owner);
    if (owner !== undefined && answers === undefined) trouble(`nobody here has the address “${owner.slice(0, 80)}”.`);
    const numbered = translated(said.when, document, local, here.names, trouble);
    const definition: RuleDefinition = {
      ...said,
      when: numbered,
      ...(answers === undefined ? {} : { owner: answers }),
      ...(next === undefined ? {} : { steps: next }),
    };
    const wrong = whatIsWrong(definition, watch);
    if (wrong !== null) trouble(wrong);
    return { id: present?.rules[at]?.id ?? null, definition, audiences };
  });
  return troubles.length === 0 ? ok(rules) : fail(troubles);
}

function keyCalled<Key>(names: ReadonlyMap<Key, string>, called: string): Key | undefined {
  return [...names].find(([, name]) => name.toLowerCase() === called.toLowerCase())?.[0];
}

function whatIsWrong(rule: RuleDefinition, { reads, every }: ExchangedWatch): string | null {
  const known = new Set(reads.fields.map(({ key }) => key));
  const strange = asksOfRule(rule).find(({ field, watch }) => watch === undefined && !known.has(field));
  if (strange !== undefined) return `it asks for “${strange.field}”, which its watch does not read.`;
  return faultOf(rule, intervalLength(every));
}

/** A condition with the numbers of watches and channels as they are here. */
function translated(
  condition: Condition,
  document: Exchange,
  local: LocalNumbers,
  names: Names,
  trouble: (sentence: string) => void,
): Condition {
  if (!('kind' in condition)) {
    const parts = childrenOf(condition).map((part) => translated(part, document, local, names, trouble));
    return 'all' in condition ? { all: parts } : 'any' in condition ? { any: parts } : { none: parts };
  }
  const asked = (said: Asked): Asked => {
    const watch = said.watch === undefined ? undefined : local.get(said.watch);
    if (said.watch !== undefined && watch == null)
      trouble(`it asks the watch ${said.watch}, which is not here: import that one first.`);
    const name = said.channel === undefined ? undefined : document.channels[String(said.channel)];
    const channel = name === undefined ? undefined : keyCalled(names.channels, name);
    if (said.channel !== undefined && channel === undefined)
      trouble(`no channel here goes by “${(name ?? String(said.channel)).slice(0, 80)}”.`);
    return { ...said, ...(watch == null ? {} : { watch }), ...(channel === undefined ? {} : { channel }) };
  };
  return withAsked(condition, asked);
}
