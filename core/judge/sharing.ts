import type { Sharing } from './asked';

/** A record, as far as the labels that it shares with others are asked. */
interface Labelled {
  identity: string;
  labels: Readonly<Record<string, string>>;
}

/** What a label says; of one that is called as what every object has, nothing but what the record itself bears. */
const saidBy = (labels: Labelled['labels'], label: string): string | undefined =>
  Object.hasOwn(labels, label) ? labels[label] : undefined;

/** Finds the record that shares a label with another (21); of several that fit the first by identity. */
export class Sharers {
  readonly #records: readonly Labelled[];
  readonly #byLabel = new Map<string, Map<string, Labelled[]>>();
  readonly #labels: ReadonlyMap<string, Labelled['labels']>;

  constructor(records: Iterable<Labelled>) {
    this.#records = [...records].sort((one, other) => (one.identity < other.identity ? -1 : 1));
    this.#labels = new Map(this.#records.map(({ identity, labels }) => [identity, labels]));
  }

  /**
   * Null where the record bears no such label, or no other fits; by what a label of the other says it may be the record
   * itself.
   */
  of({ label, where }: Sharing, identity: string): string | null {
    const value = saidBy(this.#labels.get(identity) ?? {}, label);
    if (value === undefined) return null;
    const sharing = this.#bearing(label).get(value) ?? [];
    const fits = ({ labels, identity: other }: Labelled) =>
      where === undefined ? other !== identity : saidBy(labels, where.label) === where.is;
    return sharing.find(fits)?.identity ?? null;
  }

  #bearing(label: string): Map<string, Labelled[]> {
    const known = this.#byLabel.get(label);
    if (known !== undefined) return known;
    const made = new Map<string, Labelled[]>();
    for (const record of this.#records) {
      const value = saidBy(record.labels, label);
      if (value === undefined) continue;
      const bearing = made.get(value);
      if (bearing === undefined) made.set(value, [record]);
      else bearing.push(record);
    }
    this.#byLabel.set(label, made);
    return made;
  }
}
