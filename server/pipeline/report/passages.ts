import type { ChangeId, EditionId, ReportId, WatchId } from '#core/id';
import { alertLeftOutBy, leftOutBy, type LeftOut } from '#core/tell/edition/choose';
import { linesOf } from '#core/tell/edition/lines';
import type { Move } from '#core/tell/edition/move';
import { blankOrder, storedOrder, type StandingOrder } from '#core/tell/standing-order';
import { isOfRules } from '#core/when/cadence';
import type { Instant } from '#core/when/interval';
import type { Db } from '../../db/pool';
import { alertsOfMove, movesIn } from '../../db/stretch';
import { gather } from './gather';

/** What a report made of a change, by its order of then: the line that left it out, or where it stands. */
export interface Passage {
  report: { id: ReportId; name: string };
  version: number;
  came: { to: 'left out'; by: LeftOut } | { to: 'edition'; id: EditionId; number: number } | { to: 'size' | 'beyond' | 'nothing' | 'not cut yet' };
  /** Where the alerts that it raised go another way: they stand alone, or the line that leaves one of them out. */
  alerts: 'alone' | LeftOut | null;
  /** When it was cut; of what waits for it, when that is due. */
  at: Instant | null;
}

/** Of each report the cut that has the change in its stretch, or the order under which it waits. */
const REPORTS = `
SELECT r.id, r.name, coalesce(c.report_version, r.version) AS version, v.definition, c.from_seq AS "fromSeq", c.to_seq AS "toSeq", c.from_at AS "fromAt",
  c.made_at AS "madeAt", r.due_at AS "dueAt",
  EXISTS (SELECT FROM edition e WHERE e.cut_id = c.id) AS "madeEdition",
  (SELECT jsonb_build_object('id', e.id, 'number', e.number) FROM edition e
    WHERE e.cut_id = c.id AND jsonb_path_exists(e.document, '$.groups[*].rows[*].changes[*] ? (@ == $change)', jsonb_build_object('change', x.id))
    ORDER BY e.number LIMIT 1) AS shown
FROM change x
CROSS JOIN report r
LEFT JOIN LATERAL (
  SELECT * FROM cut c WHERE c.report_id = r.id AND c.from_seq < x.seq AND c.to_seq >= x.seq ORDER BY c.number LIMIT 1
) c ON true
JOIN report_version v ON v.report_id = r.id AND v.version = coalesce(c.report_version, r.version)
WHERE x.id = $1 AND r.made_at <= x.seen_at AND (c.id IS NOT NULL OR (r.ended_at IS NULL AND (x.seq IS NULL OR x.seq > r.cut_seq)))
  AND (c.id IS NULL OR c.composed_at IS NULL OR c.lines IS NOT NULL)
ORDER BY r.name, r.id LIMIT ${100}`;

interface ReportRow {
  id: ReportId;
  name: string;
  version: number;
  definition: unknown;
  fromSeq: number | null;
  toSeq: number | null;
  fromAt: Instant | null;
  madeAt: Instant | null;
  dueAt: Instant | null;
  /** Whether its cut made an edition, and the first that shows the change. */
  madeEdition: boolean;
  shown: { id: EditionId; number: number } | null;
}

const EVERYTHING = blankOrder('UTC', []);
const MOVE = 'SELECT seq, watch_id AS watch, seen_at AS at FROM change WHERE id = $1';

/** What each report that goes by an order made of a change; those that are made of rules told it or not as the trail of their alerts says. */
export async function passagesOf(db: Db, change: ChangeId): Promise<Passage[]> {
  const [of] = (await db.query<{ seq: number | null; watch: WatchId; at: Instant }>(MOVE, [change])).rows;
  if (of?.seq == null) return [];
  const span = { fromSeq: of.seq - 1, toSeq: of.seq, from: of.at, until: of.at };
  const move = (await movesIn(db, EVERYTHING, span, [of.watch])).moves.find(({ id }) => id === change);
  if (move === undefined) return [];
  const { rows } = await db.query<ReportRow>(REPORTS, [change]);
  const alerts = await alertsOfMove(db, move);
  const passages: Passage[] = [];
  for (const row of rows) {
    const order = storedOrder.readKnown(row.definition);
    if (order === null || isOfRules(order.cadence)) continue;
    const { id, name, version, madeAt, dueAt } = row;
    passages.push({
      report: { id, name },
      version,
      at: madeAt ?? dueAt,
      came: await cameTo(db, order, row, move),
      alerts: alertsApart(order, move, alerts),
    });
  }
  return passages;
}

/** Where a report takes a move and not all that it raised, or the other way round. */
function alertsApart(order: StandingOrder, move: Move, alerts: Awaited<ReturnType<typeof alertsOfMove>>): Passage['alerts'] {
  const leftOut = alerts.map((alert) => alertLeftOutBy(order, alert));
  if (leftOutBy(order, move) !== null) return leftOut.includes(null) ? 'alone' : null;
  return leftOut.find((by) => by !== null) ?? null;
}

async function cameTo(db: Db, order: StandingOrder, row: ReportRow, move: Move): Promise<Passage['came']> {
  const by = leftOutBy(order, move);
  if (by !== null) return { to: 'left out', by };
  const { fromSeq, toSeq, fromAt, madeAt } = row;
  if (fromSeq === null || toSeq === null || fromAt === null || madeAt === null) return { to: 'not cut yet' };
  if (row.shown !== null) return { to: 'edition', ...row.shown };
  // Of its own watch alone: the others of the stretch do not matter to it.
  const own = { ...order, takes: { ...order.takes, only: { ...order.takes.only, watches: [move.record.watch] } } };
  const found = await gather(db, own, { fromSeq, toSeq, from: fromAt, until: madeAt }, { report: row.id });
  if (!linesOf(own, found).some(({ moves }) => moves.includes(move.id))) return { to: 'size' };
  return { to: row.madeEdition ? 'beyond' : 'nothing' };
}
