import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { ITEMS } from './items';
import { chance, pick } from './random';
import { World } from './world';

const DAY = 86_400_000;
const AT = Date.UTC(2026, 10, 1);
const [item] = ITEMS;
if (item === undefined) throw new Error('the shop is empty');

describe('the simulated world', () => {
  it('is a function of time: any past moment can be asked for, in any order', () => {
    let now = AT;
    const world = new World(() => now);
    const forward = Array.from({ length: 60 }, (_, day) => ((now = AT + day * DAY), world.offer(item)));
    const other = new World(() => now);
    const backward = Array.from(
      { length: 60 },
      (_, day) => ((now = AT + (59 - day) * DAY), other.offer(item)),
    ).reverse();
    expect(backward).toEqual(forward);
  });

  it('moves now and then, stays near its base, and sells out at times', () => {
    let now = AT;
    const world = new World(() => now);
    const prices = ITEMS.flatMap((each) =>
      Array.from({ length: 90 }, (_, day) => ((now = AT + day * DAY), { each, offer: world.offer(each) })),
    );
    for (const { each, offer } of prices) expect(Math.abs(offer.pence - each.base) / each.base).toBeLessThan(0.5);
    const moved = ITEMS.filter(
      (each) => new Set(prices.filter((price) => price.each === each).map((price) => price.offer.pence)).size > 2,
    );
    expect(moved.length).toBeGreaterThan(ITEMS.length / 2);
    expect(prices.some((price) => !price.offer.inStock)).toBe(true);
  });

  it('does what the stage says, from then on and not before', () => {
    let now = AT;
    const world = new World(() => now);
    const before = world.offer(item);
    now = AT + DAY;
    world.push('price', item.slug, '2150');
    world.push('stock', item.slug, 'out');
    expect(world.offer(item)).toMatchObject({ pence: 2150, inStock: false });
    now = AT;
    expect(world.offer(item)).toEqual(before);
  });

  it('lets an item differ from the rest of the shop', () => {
    const world = new World(() => AT);
    world.push('page', item.slug, 'retired');
    world.push('speed', null, 'slow');
    expect(world.conduct(item.slug)).toMatchObject({ page: 'retired', speed: 'slow' });
    expect(world.conduct('other')).toMatchObject({ page: 'there', speed: 'slow' });
  });

  it('remembers what was pushed over a restart, until it is told to forget', () => {
    const file = join(mkdtempSync(join(tmpdir(), 'shrike-world-')), 'pushes.json');
    new World(() => AT, file).push('price', item.slug, '999');
    const again = new World(() => AT, file);
    expect(again.offer(item).pence).toBe(999);
    again.push('forget', null, '');
    expect(new World(() => AT, file).offer(item).pence).not.toBe(999);
  });
});

describe('its chances', () => {
  it('depend on their names alone and are spread evenly', () => {
    expect(chance('a', 1)).toBe(chance('a', 1));
    expect(chance('a', 1)).not.toBe(chance('a', 2));
    const tenths = Array.from({ length: 10 }, () => 0);
    for (let at = 0; at < 10_000; at += 1) tenths[Math.floor(chance('even', at) * 10)]! += 1;
    for (const tenth of tenths) expect(tenth).toBeGreaterThan(850);
    expect(['x', 'y']).toContain(pick(['x', 'y'], 'any'));
  });
});
