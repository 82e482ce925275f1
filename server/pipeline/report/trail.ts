import type { AlertId, ChangeId, EditionId, NoticeId, ReportId, SeriesId, WatchId } from '#core/id';
import { alertLeftOutBy, failureLeftOutBy, leftOutBy, type LeftOut } from '#core/tell/edition/choose';
import type { Gathered } from '#core/tell/edition/gathered';
import { linesOf } from '#core/tell/edition/lines';
import { blankDefinition, NEWS_SORTS, storedOrder, type ReportDefinition } from '#core/tell/definition';
import { isOfRules } from '#core/when/cadence';
import type { Instant } from '#core/when/interval';
import { followedBy } from '../../db/report/following';
import { moment, type Db } from '../../db/base/pool';
import { alertsIn, alertsOfMove, movesIn, saidOf, watchTold, type Span } from '../../db/report/window';
import { gather } from './gather';

// What each report that goes by an order made of a piece of news; those that are made of rules told it or not as its
// tellings say.

/** A piece of news by its number; of what was first read, that of its series. */
export type NewsId =
  | { of: 'change'; id: ChangeId }
  | { of: 'first reading'; id: SeriesId }
  | { of: 'alert'; id: AlertId }
  | { of: 'failure'; id: NoticeId };

/** What a report made of a piece of news, by its order of then: the line that left it out, or where it stands. */
export interface ReportTrailEntry {
  report: { id: ReportId; name: string };
  version: number;
  came:
    | { to: 'left out'; by: LeftOut }
    | { to: 'edition'; id: EditionId; number: number }
    | { to: 'size' | 'beyond' | 'nothing' | 'not cut yet' };
  /**
   * Where the alerts that a change raised go another way: they stand alone, or the line that leaves one of them out.
   */
  alerts: 'alone' | LeftOut | null;
  /** When it was cut; of what waits for it, when that is due. */
  at: Instant | null;
}

/** A piece of news where it stands in the order of commits. */
interface Placed {
  seq: number;
  watch: WatchId;
  at: Instant;
}

/** A piece of news as reports look at it. */
interface Piece {
  /** What leaves it out. */
  by: (order: ReportDefinition) => LeftOut | null | Promise<LeftOut | null>;
  alertsApart: (order: ReportDefinition) => ReportTrailEntry['alerts'];
  /** Where the documents of editions show it, and by which number. */
  shown: { paths: string[]; number: number };
  /** Whether it is told of what a cut found. */
  isTold: (order: ReportDefinition, found: Gathered) => boolean;
}

const PLACED: Record<NewsId['of'], string> = {
  change: 'SELECT seq, watch_id AS watch, seen_at AS at FROM change WHERE id = $1',
  'first reading': 'SELECT seq, watch_id AS watch, seen_at AS at FROM first_reading WHERE series_id = $1',
  alert: 'SELECT seq, watch_id AS watch, seen_at AS at FROM alert WHERE id = $1',
  failure: `SELECT seq, watch_id AS watch, made_at AS at
    FROM notice
    WHERE id = $1 AND kind IN ('failing', 'recovered')`,
};

/** Of each report the cut that has the news in its stretch, or the order under which it waits. */
const REPORTS = `
SELECT r.id, r.name, v.version, v.definition, c.from_seq AS "fromSeq",
  c.to_seq AS "toSeq", c.from_at AS "fromAt",
  c.made_at AS "madeAt", r.due_at AS "dueAt",
  EXISTS (SELECT FROM edition e WHERE e.cut_id = c.id) AS "madeEdition",
  (SELECT jsonb_build_object('id', e.id, 'number', e.number) FROM edition e
    WHERE e.cut_id = c.id AND EXISTS (SELECT FROM unnest($3::text[]) p
    WHERE jsonb_path_exists(e.document, p::jsonpath, jsonb_build_object('number', $4::bigint)))
    ORDER BY e.number LIMIT 1) AS shown
FROM report r
LEFT JOIN LATERAL (
  SELECT * FROM cut c WHERE c.report_id = r.id AND c.from_seq < $1 AND c.to_seq >= $1 ORDER BY c.number LIMIT 1
) c ON true
JOIN report_version v ON v.report_id = r.id AND v.version = coalesce(c.report_version, r.gathers_by, r.version)
WHERE r.made_at <= $2 AND (c.id IS NOT NULL OR (r.ended_at IS NULL AND $1 > r.cut_seq))
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
  /** Whether its cut made an edition, and the first that shows the news. */
  madeEdition: boolean;
  shown: { id: EditionId; number: number } | null;
}

/** What each report that goes by an order made of a piece of news; nothing of none. */
export async function reportTrailOf(db: Db, news: NewsId | null): Promise<ReportTrailEntry[]> {
  if (news === null) return [];
  const [placed] = (await db.query<Omit<Placed, 'seq'> & { seq: number | null }>(PLACED[news.of], [news.id])).rows;
  if (placed?.seq == null) return [];
  const { seq, at, watch } = placed;
  const piece = await pieceOf(db, news, { seq, at, watch });
  if (piece === null) return [];
  const { rows } = await db.query<ReportRow>(REPORTS, [seq, moment(at), piece.shown.paths, piece.shown.number]);
  const passages: ReportTrailEntry[] = [];
  for (const row of rows) {
    const order = storedOrder.readKnown(row.definition);
    if (order === null || isOfRules(order.cadence)) continue;
    const { id, name, version, madeAt, dueAt } = row;
    const came = await cameTo(db, order, row, watch, piece);
    passages.push({ report: { id, name }, version, at: madeAt ?? dueAt, came, alerts: piece.alertsApart(order) });
  }
  return passages;
}

const blank = blankDefinition('UTC', []);
const EVERYTHING: ReportDefinition = { ...blank, takes: { ...blank.takes, sorts: [...NEWS_SORTS] } };

function pieceOf(db: Db, news: NewsId, placed: Placed): Promise<Piece | null> {
  const { seq, at, watch } = placed;
  const span = { fromSeq: seq - 1, toSeq: seq, from: at, until: at };
  if (news.of === 'alert') return alertPiece(db, news.id, span, watch);
  if (news.of === 'failure') return failurePiece(db, span, watch);
  return movePiece(db, news.id, span, watch);
}

async function movePiece(db: Db, id: ChangeId | SeriesId, span: Span, watch: WatchId): Promise<Piece | null> {
  const move = (await movesIn(db, EVERYTHING, span, [watch])).moves.find((each) => each.id === id);
  if (move === undefined) return null;
  const raised = await alertsOfMove(db, move);
  return {
    by: (order) => (order.present.length > 0 ? { by: 'present' } : leftOutBy(order, move)),
    // Where a report takes a move and not all that it raised, or the other way round.
    alertsApart: (order) => {
      const leftOut = raised.map((alert) => alertLeftOutBy(order, alert));
      if (leftOutBy(order, move) !== null) return leftOut.includes(null) ? 'alone' : null;
      return leftOut.find((by) => by !== null) ?? null;
    },
    shown: { paths: ['$.groups[*].rows[*].changes[*] ? (@ == $number)'], number: id },
    isTold: (order, found) => linesOf(order, found).some(({ moves }) => moves.includes(id)),
  };
}

async function alertPiece(db: Db, id: AlertId, span: Span, watch: WatchId): Promise<Piece | null> {
  const alert = (await alertsIn(db, EVERYTHING, span, [watch])).found.find((each) => each.id === id);
  if (alert === undefined) return null;
  return {
    by: (order) => alertLeftOutBy(order, saidOf(alert)),
    alertsApart: () => null,
    shown: {
      paths: ['$.alerts[*].id ? (@ == $number)', '$.groups[*].rows[*].alerts[*].id ? (@ == $number)'],
      number: id,
    },
    isTold: (_, { alerts }) => alerts.some((each) => each.id === id),
  };
}

/** Of a watch the last of a stretch is told, and stands for those before it. */
async function failurePiece(db: Db, span: Span, watch: WatchId): Promise<Piece | null> {
  const told = await watchTold(db, watch, span.until);
  if (told === null) return null;
  return {
    by: async (order) => failureLeftOutBy(order, told, (await followedBy(db, order, [watch]))?.includes(watch) ?? true),
    alertsApart: () => null,
    shown: { paths: ['$.broken[*].watch ? (@ == $number)'], number: watch },
    isTold: (_, { broken }) => broken.some((each) => each.watch === watch),
  };
}

async function cameTo(
  db: Db,
  order: ReportDefinition,
  row: ReportRow,
  watch: WatchId,
  piece: Piece,
): Promise<ReportTrailEntry['came']> {
  const by = await piece.by(order);
  if (by !== null) return { to: 'left out', by };
  const { fromSeq, toSeq, fromAt, madeAt } = row;
  if (fromSeq === null || toSeq === null || fromAt === null || madeAt === null) return { to: 'not cut yet' };
  if (row.shown !== null) return { to: 'edition', ...row.shown };
  // Of its own watch alone: the others of the stretch do not matter to it.
  const own = { ...order, takes: { ...order.takes, only: { ...order.takes.only, watches: [watch] } } };
  const found = await gather(db, own, { fromSeq, toSeq, from: fromAt, until: madeAt }, { report: row.id });
  if (!piece.isTold(own, found)) return { to: 'size' };
  return { to: row.madeEdition ? 'beyond' : 'nothing' };
}
