import { gtinKey, isGtin, type Item } from './item';

/** What is known of a record that may be an offer of an item: its identity, and what its fields say that it is. */
export interface Offered {
  identity: string;
  identifiers: string[];
}

/** Which item a record seems to be an offer of, and what says so. */
export interface Proposal {
  reference: string;
  by: 'reference' | 'GTIN' | 'listing';
  said: string;
}

/**
 * Looks up which item a record says it is: by our reference, a GTIN, or what one of our channels calls it. Null where
 * it says none, or several. Names are not compared here.
 */
export function proposerOf(items: readonly Item[]): (offered: Offered) => Proposal | null {
  const known = new Map<string, Omit<Proposal, 'said'>[]>();
  const add = (key: string, by: Proposal['by'], reference: string) =>
    known.set(key, [...(known.get(key) ?? []), { reference, by }]);
  for (const { reference, gtin, listings } of items) {
    add(`text ${reference.toLowerCase()}`, 'reference', reference);
    if (gtin !== '') add(`gtin ${gtinKey(gtin)}`, 'GTIN', reference);
    for (const { listing } of Object.values(listings))
      if (listing !== '') add(`text ${listing.toLowerCase()}`, 'listing', reference);
  }
  return ({ identity, identifiers }) => {
    const found = new Map<string, Proposal>();
    for (const said of [...identifiers, identity].map((text) => text.trim())) {
      const keys = [...(isGtin(said) ? [`gtin ${gtinKey(said)}`] : []), `text ${said.toLowerCase()}`];
      for (const each of keys.flatMap((key) => known.get(key) ?? []))
        if (!found.has(each.reference)) found.set(each.reference, { ...each, said });
    }
    const [only, ...others] = found.values();
    return only === undefined || others.length > 0 ? null : only;
  };
}
