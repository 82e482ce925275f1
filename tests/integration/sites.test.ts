import { numbered } from '../support/numbered';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { inTransaction } from '#server/db/base/pool';
import { ensureSite, listSites, setSite, siteCalled } from '#server/db/source/sites';
import { refreshStandings } from '#server/db/watch/standings';
import { findWatch } from '#server/db/watch/views/watch-now';
import { setWatchState } from '#server/actions/edit-watch';
import { openWorld, startWatch, type TestWorld } from '../support/world';

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(() => world.close());
beforeEach(() => world.clear());

const listed = async () =>
  (await listSites(world.pool, '', 10)).map(({ name, kind, watches }) => [name, kind, watches]);

describe('a site', () => {
  it('stands once, however many watches live there, until none does', async () => {
    const [first] = [await startWatch(world), await startWatch(world)];
    expect(await listed()).toEqual([['Skepwright', null, 2]]);
    await inTransaction(world.pool, (db) => setWatchState(db, first, 'deleted', world.now));
    expect(await listed()).toEqual([['Skepwright', null, 1]]);
  });

  it('is called what somebody says, everywhere and in the search', async () => {
    const watch = await startWatch(world);
    const site = await ensureSite(world.pool, 'Skepwright');
    expect(await setSite(world.pool, site, { name: 'Skep & Wright', kind: 'rival' })).toEqual({
      ok: true,
      value: null,
    });
    expect(await listed()).toEqual([['Skep & Wright', 'rival', 1]]);
    expect((await findWatch(world.pool, watch))?.site).toBe('Skep & Wright');
    await refreshStandings(world.pool, world.now, 10);
    expect(
      await world.rows(`SELECT words LIKE '%skep & wright%' AS found FROM standing WHERE watch_id = $1`, [watch]),
    ).toEqual([{ found: true }]);
  });

  it('stays the one it was when another page of it is watched after it was called otherwise', async () => {
    await startWatch(world);
    await setSite(world.pool, await ensureSite(world.pool, 'Skepwright'), { name: 'The rival', kind: 'rival' });
    await startWatch(world, { slug: 'steel-smoker' });
    expect(await listed()).toEqual([['The rival', 'rival', 2]]);
    expect(await siteCalled(world.pool, 'Skepwright')).toBe('The rival');
    expect(await siteCalled(world.pool, 'Nectarine Row')).toBe('Nectarine Row');
  });

  it('that is called as another calls itself is that one from then on, and the former name is free', async () => {
    const other = await ensureSite(world.pool, 'Skepwright');
    await setSite(world.pool, other, { name: 'Heatherlow', kind: 'own' });
    expect(await ensureSite(world.pool, 'Heatherlow')).toBe(other);
    expect(await ensureSite(world.pool, 'Skepwright')).toBe(other);
  });

  it('is listed without a watch when it is known whose it is', async () => {
    await setSite(world.pool, await ensureSite(world.pool, 'Heatherlow'), { name: 'Heatherlow', kind: 'own' });
    expect(await listed()).toEqual([['Heatherlow', 'own', 0]]);
  });

  it('takes neither the name of another nor of one that is gone', async () => {
    const [own, other] = [await ensureSite(world.pool, 'Heatherlow'), await ensureSite(world.pool, 'Skepwright')];
    expect(await setSite(world.pool, other, { name: 'Heatherlow', kind: null })).toEqual({
      ok: false,
      error: 'name taken',
    });
    expect(await setSite(world.pool, numbered(own + other + 1), { name: 'New', kind: null })).toEqual({
      ok: false,
      error: 'gone',
    });
  });

  it('cannot be of a kind that there is not', async () => {
    const site = await ensureSite(world.pool, 'Heatherlow');
    await expect(setSite(world.pool, site, { name: 'Heatherlow', kind: 'foe' as never })).rejects.toThrow(
      'site_kind_check',
    );
  });
});
