import type { Body } from '#core/read/body';
import { pageDefinition, type WatchDefinition } from '#core/read/definition';
import { doubtsOf } from '#core/read/frame/doubts';
import { listingsOf } from '#core/read/listing/listing';
import { readBody } from '#core/read/read';
import type { WatchReading } from '#core/read/reading';
import { isMeasure, unitOf, type Value } from '#core/value/value';
import { documentOf } from '../../support/document';
import { listedAfter, type ListedSite, type ListingDone, type Records } from './listings';

export type ListingFate = 'right' | 'left out' | 'read wrong';

const bodyOf = (html: string): Body => ({ format: 'html', document: documentOf(html) });

const alike = (value: Value, truth: string) =>
  isMeasure(value) &&
  Number(value.amount) === Number(truth.split(' ')[0]) &&
  (unitOf(value) ?? '') === truth.split(' ').slice(1).join(' ');

interface SetUp {
  definition: WatchDefinition;
  field: string;
  last: Map<string, Value>;
}

/** Takes the listing that is offered for a page, with the field that reads what it has to be. */
export function setUpListing(site: ListedSite): SetUp {
  const body = bodyOf(site.html);
  for (const { records, fields, identity } of listingsOf(body)) {
    const definition = { ...pageDefinition('listing', fields), records, identity };
    const read = readAll(body, definition);
    if (read === null) continue;
    for (const { key } of fields) {
      const values = valuesOf(read, key);
      const fits = Object.entries(site.was).every(([name, truth]) =>
        [...values].some(([identity, value]) => identity.includes(name) && truth !== null && alike(value, truth)),
      );
      if (fits)
        return {
          definition: {
            ...definition,
            fields: fields.filter(
              (field) => field.key === key || identity.includes(field.key) || field.role === 'name',
            ),
          },
          field: key,
          last: values,
        };
    }
  }
  throw new Error(`${site.kind}: no listing that is offered reads so`);
}

function readAll(body: Body, definition: WatchDefinition): WatchReading | null {
  const read = readBody(body, definition, { address: null, latest: () => undefined });
  return read.ok ? read.value : null;
}

/** By identity and name of the record. */
function valuesOf({ records }: WatchReading, key: string): Map<string, Value> {
  return new Map(
    records.flatMap(({ identity, name, fields }) => {
      const outcome = fields.find(({ field }) => field === key)?.outcome;
      return outcome?.ok ? [[`${identity} ${name}`, outcome.value.value] as const] : [];
    }),
  );
}

/** What became of a page of many records, and what was read wrong of it. */
export function listingFateOf(site: ListedSite, done: ListingDone): { fate: ListingFate; said: string } {
  const { definition, field, last } = setUpListing(site);
  const read = readAll(bodyOf(listedAfter(site, done)), definition);
  const values = read === null ? new Map<string, Value>() : valuesOf(read, field);
  const sound = [...values].filter(
    ([identity, value]) => doubtsOf(last.get(identity) ?? value, value, {}).length === 0,
  );
  const wrong = sound.filter(([identity, value]) => !isTrue(done.is, identity, value));
  const missing = Object.entries(done.is).filter(([name]) => !sound.some(([identity]) => identity.includes(name)));
  const said = JSON.stringify({
    wrong: wrong.map(([identity, value]) => [identity, isMeasure(value) ? value.amount : value]),
    missing,
  });
  return { fate: wrong.length > 0 ? 'read wrong' : missing.length > 0 ? 'left out' : 'right', said };
}

function isTrue(truth: Records, identity: string, value: Value): boolean {
  const known = Object.entries(truth).find(([name]) => identity.includes(name));
  return known?.[1] != null && alike(value, known[1]);
}
