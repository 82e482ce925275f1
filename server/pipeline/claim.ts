import { isOutage } from '../db/base/outage';
import { withClient, type Db, type Statement } from '../db/base/pool';
import type { Keeping } from './keeping';

/** What is claimed, what is done with it, and what is left of it where that cannot be done. */
interface Claim<Row, Done> {
  /** Locks what is due, and passes over what others hold. */
  due: Statement;
  /** Commits what it does. */
  work: (db: Db, rows: [Row, ...Row[]]) => Promise<Done>;
  /** What failed is laid by: it holds up nothing that comes after it. */
  layBy: (rows: [Row, ...Row[]]) => { statement: Statement; of: Record<string, unknown>; said: string; done: Done };
}

/** Claims what is due next and does it, in one transaction; null where nothing is. */
export async function takeDue<Row extends object, Done>(
  pipeline: Keeping,
  { due, work, layBy }: Claim<Row, Done>,
): Promise<Done | null> {
  return withClient(pipeline.pool, async (db) => {
    await db.query('BEGIN');
    const { rows } = await db.query<Row>(due);
    const [first, ...others] = rows;
    if (first === undefined) {
      await db.query('ROLLBACK');
      return null;
    }
    try {
      return await work(db, [first, ...others]);
    } catch (error) {
      if (isOutage(error)) throw error;
      const { statement, of, said, done } = layBy([first, ...others]);
      pipeline.log.error({ ...of, err: error }, said);
      await db.query('ROLLBACK');
      await db.query(statement);
      return done;
    }
  });
}
