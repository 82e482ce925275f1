import type { WatchId } from '../id';
import type { Instant } from '../when/interval';
import { groupKey, keyOf, type AMONG, type Asked, type Sharing } from './asked';
import { clausesOf } from './clause';
import { kindOf } from './kinds/table';
import type { Latest } from './observation';
import { askedOf, othersOf, type KnownItem } from './offers';
import { asksOfRule, type RuleDefinition } from './rule';

/** Of so many others at most a place among them is worked out. */
export const MOST_OTHERS = 1_000;

/** How all that may stand beside a record stands at a moment: now, or at one of the past. */
export interface Around {
  now: Instant;
  /**
   * What is heard at this moment of another record, of this watch or another, that a rule names; undefined where
   * nothing is.
   */
  named: (asked: Asked) => Latest | undefined;
  /** The same of the record that shares a label with one; absent where none does. */
  shared: (field: string, sharing: Sharing, identity: string) => Latest | undefined;
  /** How a field stands of all records of the watch, by their identity; of more than so many, none. */
  members: (field: string) => ReadonlyMap<string, Latest>;
  /** The item that a record is an offer of. */
  item: (identity: string) => KnownItem | undefined;
  /** The watch as offers name it, and what each of its fields is. */
  watch: WatchId | null;
  roleOf: (field: string) => string;
}

/**
 * What a rule hears beside a record's own fields: records that it names, the item of each, and the others of a group.
 */
export class Related {
  /** What was read now of the records that it names. */
  readonly #read: ReadonlyMap<string, Latest>;
  readonly #groups: { key: string; members: ReadonlyMap<string, Latest> }[];

  constructor(
    private readonly rule: RuleDefinition,
    private readonly around: Around,
  ) {
    this.#read = new Map(
      asksOfRule(rule).flatMap((asked): [string, Latest][] => {
        const latest = asked.record === undefined && asked.watch === undefined ? undefined : around.named(asked);
        return latest === undefined ? [] : [[keyOf(asked), latest]];
      }),
    );
    this.#groups = this.#places('records').map(({ asked, key }) => ({ key, members: around.members(asked.field) }));
  }

  /** Clauses about a place in a group, with the names of that. */
  #places(among: (typeof AMONG)[number]) {
    return clausesOf(this.rule.when).flatMap((clause) => {
      const group = kindOf(clause).group?.(clause);
      return group !== undefined && (group.among === 'offers') === (among === 'offers')
        ? [{ asked: group.asked, key: groupKey(group) }]
        : [];
    });
  }

  /** What was read now of what a record's rule names, its item's with it. */
  readOf(identity: string): ReadonlyMap<string, Latest> {
    const asks = asksOfRule(this.rule).filter(({ item, sharing }) => item !== undefined || sharing !== undefined);
    if (asks.length === 0) return this.#read;
    return new Map([
      ...this.#read,
      ...asks.flatMap((asked): [string, Latest][] => {
        const latest = this.#ofRecord(asked, identity);
        return latest === undefined ? [] : [[keyOf(asked), latest]];
      }),
    ]);
  }

  /** What is asked of the item of a record, or of what shares a label with it. */
  #ofRecord(asked: Asked, identity: string): Latest | undefined {
    const { sharing, field } = asked;
    if (sharing !== undefined) return this.around.shared(field, sharing, identity);
    return askedOf(this.around.item(identity), asked, this.#asking(identity));
  }

  /** The others of each group that a record is in. */
  groupsOf(identity: string): ReadonlyMap<string, Latest[]> {
    const others = this.#groups
      .filter(({ members }) => members.size > 0)
      .map(
        ({ key, members }) =>
          [key, [...members].flatMap(([each, latest]) => (each === identity ? [] : latest))] as const,
      );
    return new Map([...others, ...this.offersOf(identity)]);
  }

  /** The others alone that are offers of its item, wherever they are read. */
  offersOf(identity: string): ReadonlyMap<string, Latest[]> {
    const known = this.around.item(identity);
    return new Map(
      this.#places('offers').map(({ asked, key }) => [
        key,
        known === undefined ? [] : othersOf(known, this.around.roleOf(asked.field), this.#asking(identity)),
      ]),
    );
  }

  #asking(identity: string) {
    const { watch, roleOf, now } = this.around;
    return { watch, identity, roleOf, now };
  }
}

/** What stands beside a record at a moment, by the names under which a rule asks it. */
export interface IsRelated {
  at: Instant;
  read: ReadonlyMap<string, Latest>;
  groups: ReadonlyMap<string, Latest[]>;
}

/** What a rule hears beside a record, as everything around it stands. */
export function isRelated(rule: RuleDefinition, around: Around, identity: string): IsRelated {
  const beside = new Related(rule, around);
  return { at: around.now, read: beside.readOf(identity), groups: beside.groupsOf(identity) };
}
