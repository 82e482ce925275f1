import type { PersonId, SiteId } from '#core/id';
import { readExchange, type ExchangedWatch, type ExchangeLine, type Here } from '#core/plan/exchange';
import { webAddress } from '../fetch/web-address';
import type { ReadDocument } from '../shapes/exchange';

// A document of watches as it is held against what is here: pure, for it is done in a thread.

/** What a document is held against, as text. */
interface WrittenHere {
  watches: Here['watches'];
  names: { audiences: [string, string][]; owners: [PersonId, string][]; channels: [SiteId, string][] };
  called: { audiences: [string, string][]; locale: string };
}

export function writeHere({ watches, names, called }: Here): string {
  const { audiences, owners, channels } = names;
  const written: WrittenHere = {
    watches,
    names: { audiences: [...audiences], owners: [...owners], channels: [...channels] },
    called: { audiences: [...called.audiences], locale: called.locale },
  };
  return JSON.stringify(written);
}

/** The same, read back. */
export function hereIn(text: string): Here {
  const { watches, names, called } = JSON.parse(text) as WrittenHere;
  return {
    watches,
    names: {
      audiences: new Map(names.audiences),
      owners: new Map(names.owners),
      channels: new Map(names.channels),
    },
    called: { audiences: new Map(called.audiences), locale: called.locale },
  };
}

/** A watch of a document with its address as a browser writes it. */
export const withPlainAddress = (watch: ExchangedWatch): ExchangedWatch => ({
  ...watch,
  address: webAddress(watch.address)?.href ?? watch.address,
});

/**
 * What each line of a document would do, those without a shape under their own number. What is at an address that
 * cannot be fetched is refused.
 */
export function documentLines({ document, refused }: ReadDocument, here: Here): ExchangeLine[] {
  const without = new Set(refused.map(({ line }) => line));
  const all = document.watches.length + refused.length;
  const numbers = Array.from({ length: all }, (_, at) => at + 1).filter((line) => !without.has(line));
  const lines = readExchange(document, here).map((line, at) => fetchable({ ...line, line: numbers[at] ?? line.line }));
  const shapeless = refused.map(({ line, name, said }) => refusedLine({ line, name }, said));
  return [...lines, ...shapeless].sort((one, other) => one.line - other.line);
}

const refusedLine = ({ line, name }: Pick<ExchangeLine, 'line' | 'name'>, said: string): ExchangeLine => ({
  line,
  name,
  does: 'refused',
  said: [said],
  watch: null,
  plan: null,
});

function fetchable(line: ExchangeLine): ExchangeLine {
  if (line.does !== 'adds' || line.plan === null) return line;
  const problem = addressProblem(line.plan.way, line.plan.address);
  return problem === null ? line : refusedLine(line, problem);
}

function addressProblem(way: string, address: string): string | null {
  if (way === 'posted') return 'What another program posts to needs an address of its own here: set it up anew.';
  return webAddress(address) === null
    ? 'Its address is none that can be fetched: it has to begin with https:// or http://.'
    : null;
}
