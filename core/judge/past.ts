import type { WatchId } from '../id';
import { ABSENT, type Value } from '../value/value';
import { onceFor } from '../once-for';
import type { Instant } from '../when/interval';
import { firstFrom } from '../when/ordered';
import { MOST_OTHERS, type Around } from './related';
import { isOwn, keyOf, type Asked, type Sharing } from './asked';
import { clausesOf } from './clause';
import { freshFor, type Latest } from './observation';
import { minimumMoves, type KnownItem, type Offer } from './offers';
import { asksOfRule, type RuleDefinition } from './rule';
import { Sharers } from './sharing';

// What was read in the past, as far as rules are tried on it.

/** A stored reading: a value, from when to when it was seen, and at how many runs. */
export interface StoredReading {
  at: Instant;
  until: Instant;
  runs: number;
  value: Value;
  /** When it came, where that is later than when it was so. */
  came?: Instant;
  /** It came after later ones of its series. */
  late?: true;
}

/**
 * The stored readings of a record, by field, each oldest first. Of a stepwise field a value is in force until the next
 * one.
 */
export interface History {
  identity: string;
  name: string;
  labels?: Record<string, string>;
  item?: KnownItem['item'];
  /** When it went, and when it came: what is known of that, the oldest first. */
  presence?: readonly { at: Instant; there: boolean }[];
  fields: Readonly<Record<string, { stepwise: boolean; readings: readonly StoredReading[] }>>;
}

/** An offer of an item with what was read of it, by what each field is, each oldest first. */
export interface PastOffer extends Omit<Offer, 'values'> {
  readings: Readonly<Record<string, readonly StoredReading[]>>;
}

/** An item with all its offers, as records are joined to it now. */
export interface PastItem extends Omit<KnownItem, 'offers'> {
  offers: readonly PastOffer[];
}

/** The runs of a watch, the oldest first: those that read something, and those that failed. */
export interface PastRuns {
  read: readonly Instant[];
  failed: readonly Instant[];
}

/** What stood beside the records of a watch, and when it was looked at. */
export interface PastRelated {
  watch: WatchId | null;
  /** What the fields of the watch are, where they are something. */
  roles: Readonly<Record<string, string>>;
  /** By the identity of the record that is an offer of each. */
  items: Readonly<Record<string, PastItem>>;
  /**
   * Of other watches, by the name under which a rule asks each, with how long a value of theirs may be leant on, in ms.
   */
  elsewhere: Readonly<Record<string, { readings: readonly StoredReading[]; goodFor: number }>>;
  /** Where they are not known, a value that was seen at many is taken to have been so at even distances. */
  runs?: PastRuns;
}

export const NOTHING_RELATED: PastRelated = { watch: null, roles: {}, items: {}, elsewhere: {} };
export const NO_RUNS: PastRuns = { read: [], failed: [] };

/** Readings by when they came; those that came after later ones of their series move nothing that stands. */
const arrivedIn = onceFor((readings: readonly StoredReading[]): readonly StoredReading[] => {
  if (readings.every(({ came, late }) => came === undefined && late !== true)) return readings;
  const ordered = [...readings].sort((one, other) => cameAt(one) - cameAt(other) || one.at - other.at);
  let latest = -Infinity;
  return ordered.flatMap((reading) => {
    if (reading.late === true || reading.at < latest) return [];
    latest = reading.at;
    const came = cameAt(reading);
    return { ...reading, at: came, until: Math.max(reading.until, came) };
  });
});

/** When a stored reading came. */
export const cameAt = ({ at, came = at }: StoredReading): Instant => came;

/** Whether a record was there at a moment, as far as its comings and goings are known. */
export const isThere = ({ presence = [] }: Pick<History, 'presence'>, now: Instant): boolean =>
  presence[firstFrom(presence, now + 1, ({ at }) => at) - 1]?.there ?? true;

const NONE: readonly StoredReading[] = [];

/**
 * Readings of something that stands beside a record, and how long after a run they are leant on, in ms: by the pace of
 * the rule's own watch where that is not said.
 */
interface RelatedReadings {
  readings: readonly StoredReading[];
  goodFor?: number;
}

/** What stood at a moment, and when it was seen last until then; null before the first reading. */
function standingAt(readings: readonly StoredReading[], at: Instant): Latest | null {
  const last = readings[firstFrom(readings, at + 1, (each) => each.at) - 1];
  return last === undefined ? null : { value: last.value, at: Math.min(last.until, at) };
}

/** How everything beside the records of a watch stood, at any moment of the past. */
export class PastAround {
  readonly #byIdentity: ReadonlyMap<string, History>;
  readonly #sharers: Sharers;

  constructor(
    private readonly histories: readonly History[],
    private readonly beside: PastRelated,
  ) {
    this.#byIdentity = new Map(histories.map((history) => [history.identity, history]));
    this.#sharers = new Sharers(histories.map(({ identity, labels = {} }) => ({ identity, labels })));
  }

  at(now: Instant): Around {
    const { watch, items } = this.beside;
    return {
      now,
      watch,
      roleOf: this.#roleOf,
      named: (asked) => this.#named(asked, now),
      shared: (field, sharing, identity) => this.#shared(field, sharing, identity, now),
      members: (field) => this.#members(field, now),
      item: (identity) => itemAt(Object.hasOwn(items, identity) ? items[identity] : undefined, now),
    };
  }

  /** When something moved that a rule asks beside a record. */
  moves(rule: RuleDefinition, identity: string): Instant[] {
    return [...new Set(this.#besideOf(rule, identity).flatMap(({ readings }) => readings.map(({ at }) => at)))];
  }

  /** From when on something that a rule asks beside a record is to be leant on no more, or is another with the day. */
  turns(rule: RuleDefinition, identity: string, intervalMs: number): Instant[] {
    const old = this.#besideOf(rule, identity).flatMap(({ readings, goodFor }) =>
      readings.flatMap(({ until }, n) => {
        const end = until + (goodFor ?? freshFor({ intervalMs })) + 1;
        return end < (readings[n + 1]?.at ?? Infinity) ? end : [];
      }),
    );
    const asksMinimum = asksOfRule(rule).some(({ item }) => item === 'minimum');
    return [...new Set([...old, ...(asksMinimum ? minimumMoves(this.at(0).item(identity)) : [])])];
  }

  /** The readings of everything that a rule asks beside a record, with how long each is leant on. */
  #besideOf(rule: RuleDefinition, identity: string): RelatedReadings[] {
    const asked = asksOfRule(rule)
      .filter((each) => !isOwn(each))
      .flatMap((each) => this.#readingsOf(each, identity));
    const grouped = clausesOf(rule.when).flatMap((clause) => {
      if (clause.kind !== 'place' && clause.kind !== 'rank') return [];
      const { field } = clause.asked;
      return clause.among === 'offers' ? this.#offered(identity, field) : this.#others(field, identity);
    });
    return [...asked, ...grouped];
  }

  readonly #roleOf = (field: string): string => this.beside.roles[field] ?? field;

  #own(identity: string, field: string): readonly StoredReading[] {
    return arrivedIn(this.#byIdentity.get(identity)?.fields[field]?.readings ?? NONE);
  }

  #others(field: string, identity: string): RelatedReadings[] {
    if (this.histories.length > MOST_OTHERS) return [];
    return this.histories.flatMap((each) =>
      each.identity === identity ? [] : [{ readings: this.#own(each.identity, field) }],
    );
  }

  #offered(identity: string, field: string): RelatedReadings[] {
    const { items } = this.beside;
    const offers = Object.hasOwn(items, identity) ? items[identity]?.offers : undefined;
    return (offers ?? []).map(({ readings, watch, intervalMs }) => ({
      readings: arrivedIn(readings[this.#roleOf(field)] ?? NONE),
      goodFor: watch === null ? Infinity : freshFor({ intervalMs }),
    }));
  }

  #readingsOf(asked: Asked, identity: string): RelatedReadings[] {
    if (asked.item === 'minimum') return [];
    if (asked.item !== undefined) return this.#offered(identity, asked.field);
    if (asked.sharing !== undefined)
      return [{ readings: this.#own(this.#sharers.of(asked.sharing, identity) ?? '', asked.field), goodFor: Infinity }];
    if (asked.watch === undefined)
      return asked.record === undefined ? [] : [{ readings: this.#own(asked.record, asked.field), goodFor: Infinity }];
    const elsewhere = this.beside.elsewhere[keyOf(asked)];
    return elsewhere === undefined
      ? []
      : [{ readings: arrivedIn(elsewhere.readings), goodFor: asked.within ?? elsewhere.goodFor }];
  }

  #shared(field: string, sharing: Sharing, identity: string, now: Instant): Latest | undefined {
    const other = this.#sharers.of(sharing, identity);
    return other === null ? { value: ABSENT, at: now } : (standingAt(this.#own(other, field), now) ?? undefined);
  }

  #named(asked: Asked, now: Instant): Latest | undefined {
    const elsewhere = asked.watch === undefined ? undefined : this.beside.elsewhere[keyOf(asked)];
    const readings =
      asked.watch === undefined ? this.#own(asked.record ?? '', asked.field) : arrivedIn(elsewhere?.readings ?? NONE);
    const latest = standingAt(readings, now);
    return latest === null ? undefined : elsewhere === undefined ? latest : { ...latest, goodFor: elsewhere.goodFor };
  }

  #members(field: string, now: Instant): Map<string, Latest> {
    if (this.histories.length > MOST_OTHERS) return new Map();
    return new Map(
      this.histories.flatMap(({ identity, presence }): [string, Latest][] => {
        if (!isThere({ presence }, now)) return [];
        const latest = standingAt(this.#own(identity, field), now);
        return latest === null ? [] : [[identity, latest]];
      }),
    );
  }
}

function itemAt(past: PastItem | undefined, now: Instant): KnownItem | undefined {
  if (past === undefined) return undefined;
  return { item: past.item, zone: past.zone, offers: past.offers.map((offer) => offerAt(offer, now)) };
}

function offerAt({ readings, ...offer }: PastOffer, now: Instant): Offer {
  const values = Object.entries(readings).flatMap(([role, each]): [string, Latest][] => {
    const latest = standingAt(arrivedIn(each), now);
    return latest === null ? [] : [[role, latest]];
  });
  return { ...offer, values: new Map(values) };
}
