import { DAY } from '#core/when/interval';
import { listOver, listRaised, noteSeen } from '#server/db/rule/raised';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { NEW_MS } from './page';

const MOST = 500;

const MOST_OVER = 50;

export async function loader({ context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'raised' });
  const { pool, clock, ids } = services();
  const now = clock();
  const [found, over] = await Promise.all([listRaised(pool, MOST + 1), listOver(pool, now - DAY, MOST_OVER)]);
  const raised = found.slice(0, MOST);
  const seen = await noteSeen(
    pool,
    ids,
    person.id,
    raised.map(({ id }) => id),
    now,
  );
  const fresh = raised.flatMap(({ id }) => ((seen.get(id) ?? now) > now - NEW_MS ? [id] : []));
  return { raised, fresh, more: found.length > MOST, over, now };
}
