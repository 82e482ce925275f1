import { readFileSync, renameSync, writeFileSync } from 'node:fs';
import type { Item } from './items';
import { chance } from './random';

/** Milliseconds since the epoch, UTC. */
type Instant = number;

const BEGINNING = Date.UTC(2026, 0, 1);
const SLOT = 3 * 3_600_000;
const MOVE_CHANCE = 0.024;
const SELL_OUT_CHANCE = 0.004;
const RESTOCK_CHANCE = 0.08;

/** An item's offer at a moment. */
export interface Offer {
  pence: number;
  /** What it was before the last fall, while the shop still shows it struck out. */
  wasPence: number | null;
  inStock: boolean;
}

/** What somebody on the stage made happen. */
export interface Push {
  at: Instant;
  slug: string | null;
  what: 'price' | 'stock' | 'page' | 'layout' | 'speed' | 'mail' | 'forget';
  value: string;
}

/** How a host behaves, as pushed from the stage. */
export interface Conduct {
  page: 'there' | 'missing' | 'retired' | 'not a page' | 'huge';
  layout: 'usual' | 'rebuilt';
  speed: 'usual' | 'slow';
  mail: 'accepts' | 'defers' | 'refuses';
}

/**
 * The simulated world: a seeded function of time, so that any past moment can be asked for, and over it what was
 * pushed from the stage, from its moment on. Pushes are kept in a file, if one is given.
 */
export class World {
  readonly #pushes: Push[];
  readonly #offers = new Map<string, Offer[]>();

  constructor(
    readonly clock: () => Instant,
    private readonly file: string | null = null,
  ) {
    this.#pushes = file === null ? [] : readPushes(file);
  }

  /** What an item costs and whether it can be had, now. */
  offer(item: Item): Offer {
    const now = this.clock();
    const natural = this.#natural(item, now);
    const price = this.#last('price', item.slug);
    const stock = this.#last('stock', item.slug);
    return {
      pence: price === undefined ? natural.pence : Number(price.value),
      wasPence: price === undefined ? natural.wasPence : null,
      inStock: stock === undefined ? natural.inStock : stock.value === 'in',
    };
  }

  /** How things behave now: an item's page, or the whole of it where no item is named. */
  conduct(slug: string | null = null): Conduct {
    const value = (what: Push['what'], fallback: string) => this.#last(what, slug)?.value ?? this.#last(what, null)?.value ?? fallback;
    return {
      page: value('page', 'there'),
      layout: value('layout', 'usual'),
      speed: value('speed', 'usual'),
      mail: value('mail', 'accepts'),
    } as Conduct;
  }

  /** Makes something happen from now on. */
  push(what: Push['what'], slug: string | null, value: string): void {
    if (what === 'forget') this.#pushes.length = 0;
    else this.#pushes.push({ at: this.clock(), slug, what, value });
    this.#keep();
  }

  #last(what: Push['what'], slug: string | null): Push | undefined {
    const now = this.clock();
    return this.#pushes.findLast((push) => push.what === what && push.slug === slug && push.at <= now);
  }

  #keep(): void {
    if (this.file === null) return;
    writeFileSync(`${this.file}.new`, JSON.stringify(this.#pushes));
    renameSync(`${this.file}.new`, this.file);
  }

  #natural(item: Item, at: Instant): Offer {
    const slot = Math.max(0, Math.floor((at - BEGINNING) / SLOT));
    const known = this.#offers.get(item.slug) ?? [{ pence: item.base, wasPence: null, inStock: true }];
    for (let next = known.length; next <= slot; next += 1) known.push(step(item, next, known[next - 1] as Offer));
    this.#offers.set(item.slug, known);
    return known[slot] as Offer;
  }
}

/** One slot further: mostly nothing; at times a price moves, drawn back towards its base, or stock runs out. */
function step(item: Item, slot: number, before: Offer): Offer {
  const inStock = before.inStock ? chance(item.slug, slot, 'out') >= SELL_OUT_CHANCE : chance(item.slug, slot, 'in') < RESTOCK_CHANCE;
  if (chance(item.slug, slot, 'move') >= MOVE_CHANCE) return { ...before, inStock };
  const pull = (item.base - before.pence) / item.base;
  const swing = (chance(item.slug, slot, 'swing') - 0.5) * 0.2 + pull * 0.5;
  const pence = tidy(before.pence * (1 + swing));
  return { pence, wasPence: pence < before.pence ? before.pence : null, inStock };
}

function tidy(pence: number): number {
  const stepSize = pence < 3000 ? 10 : 100;
  return Math.max(50, Math.round(pence / stepSize) * stepSize - (chance(pence) < 0.4 ? 5 : 0));
}

function readPushes(file: string): Push[] {
  try {
    return JSON.parse(readFileSync(file, 'utf8')) as Push[];
  } catch {
    return [];
  }
}
