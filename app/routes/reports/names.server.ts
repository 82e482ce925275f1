import type { StandingOrder } from '#core/tell/standing-order';
import type { Db } from '#server/db/pool';

/** What the sites and watches are called that standing orders name: pairs, as a page carries them. */
export interface Names {
  sites: [number, string][];
  watches: [number, string][];
}

const SITES = 'SELECT id, name FROM site WHERE id = ANY($1)';
const WATCHES = `SELECT w.id, v.definition->>'subject' AS name FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version WHERE w.id = ANY($1)`;

/** Looks up what standing orders name. */
export async function namesOf(db: Db, orders: StandingOrder[]): Promise<Names> {
  const find = async (text: string, ids: number[]): Promise<[number, string][]> => {
    if (ids.length === 0) return [];
    return (await db.query<{ id: number; name: string }>(text, [[...new Set(ids)]])).rows.map(({ id, name }) => [id, name]);
  };
  const chosen = orders.map(({ takes }) => takes);
  return {
    sites: await find(SITES, chosen.flatMap(({ only, not }) => [...only.sites, ...not.sites])),
    watches: await find(WATCHES, chosen.flatMap(({ only, not }) => [...only.watches, ...not.watches])),
  }; // prettier-ignore
}
