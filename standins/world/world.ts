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

/** The places of the simulated world, by the names under which they answer. */
export const SITES = [
  'skepwright',
  'combe-larder',
  'nectarine-row',
  'imkerhaus',
  'heatherlow',
  'bulletin',
  'carrier',
  'supplier',
  'forage',
  'webshop',
  'gateway',
] as const;

/** The name of one place. */
export type Site = (typeof SITES)[number];

/** What can be made to happen, each with the ways it can be; the first is how the world is by itself. */
export const CHOICES = {
  stock: ['in', 'out'],
  page: ['there', 'missing', 'retired', 'swapped', 'not a page', 'huge'],
  layout: ['usual', 'rebuilt', 'members first', 'columns swapped'],
  consent: ['none', 'wall'],
  script: ['usual', 'slow', 'broken'],
  speed: ['usual', 'slow', 'asks to slow down'],
  mail: ['accepts', 'defers', 'refuses', 'has no such mailbox'],
  receiver: ['accepts', 'answers 500', 'leads elsewhere', 'hangs'],
  sensor: ['usual', 'silent', 'bad', 'spiking'],
  door: ['usual', 'open', 'closed'],
  counter: ['running', 'begun anew'],
  robots: ['welcome', 'unwelcome'],
} as const;

/** What somebody on the stage made happen. */
export interface Push {
  at: Instant;
  slug: string | null;
  what: keyof typeof CHOICES | 'price' | 'forget';
  value: string;
}

/** How a place, or one thing in it, behaves as pushed from the stage. */
export type Conduct = { [What in keyof typeof CHOICES]: (typeof CHOICES)[What][number] };

/** How one thing in a place is called among the pushes; Skepwright's go by their own name. */
export function keyOf(site: Site, slug: string): string {
  return site === 'skepwright' ? slug : `${site}/${slug}`;
}

/**
 * The simulated world: a seeded function of time, so that any past moment can be asked for, and over it what was
 * pushed from the stage, from its moment on. Pushes are kept in a file, if one is given.
 */
export class World {
  readonly #pushes: Push[];
  readonly #offers = new Map<string, Offer[]>();

  /**
   * `nature` is the moment by which the world has moved of itself: as a rule the clock's; one that stands still makes a
   * world in which nothing moves but what is pushed.
   */
  constructor(
    readonly clock: () => Instant,
    private readonly file: string | null = null,
    readonly nature: () => Instant = clock,
  ) {
    this.#pushes = file === null ? [] : readPushes(file);
  }

  /** What an item costs in a shop and whether it can be had, now. */
  offer(item: Item, site: Site = 'skepwright'): Offer {
    const key = keyOf(site, item.slug);
    const natural = this.#natural({ ...item, slug: key, base: baseIn(site, item) }, this.nature());
    const price = this.#last('price', key);
    const stock = this.#last('stock', key);
    return {
      pence: price === undefined ? natural.pence : Number(price.value),
      wasPence: price === undefined ? natural.wasPence : null,
      inStock: stock === undefined ? natural.inStock : stock.value === 'in',
    };
  }

  /** How things behave now: one thing, the place it is in, or the whole world where nothing is named. */
  conduct(slug: string | null = null, site: Site | null = null): Conduct {
    const names = [slug === null || site === null ? slug : keyOf(site, slug), site, null].filter(
      (name, at) => name !== null || at === 2,
    );
    const value = (what: keyof Conduct) =>
      names.map((name) => this.#last(what, name)?.value).find((each) => each !== undefined) ?? CHOICES[what][0];
    return Object.fromEntries(Object.keys(CHOICES).map((what) => [what, value(what as keyof Conduct)])) as Conduct;
  }

  /** When something was last pushed; null when it never was. */
  pushedAt(what: Push['what'], slug: string): Instant | null {
    return this.#last(what, slug)?.at ?? null;
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

/** What an item is worth elsewhere: each shop a little dearer or cheaper than Skepwright. */
function baseIn(site: Site, item: Item): number {
  return site === 'skepwright' ? item.base : tidy(item.base * (0.92 + chance(site, item.slug, 'base') * 0.2));
}

/** One slot further: mostly nothing; at times a price moves, drawn back towards its base, or stock runs out. */
function step(item: Item, slot: number, before: Offer): Offer {
  const inStock = before.inStock
    ? chance(item.slug, slot, 'out') >= SELL_OUT_CHANCE
    : chance(item.slug, slot, 'in') < RESTOCK_CHANCE;
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
