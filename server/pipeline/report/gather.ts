import type { ItemId, ReportId, WatchId } from '#core/id';
import type { Gathered } from '#core/tell/edition/gathered';
import { linesInOrder, type GroupedLine } from '#core/tell/edition/groups';
import { everyLine, type Line } from '#core/tell/edition/lines';
import { shareOf, type Share } from '#core/tell/edition/share';
import type { ReportDefinition } from '#core/tell/definition';
import { followedBy } from '../../db/report/following';
import type { Db } from '../../db/base/pool';
import { presentAt } from '../../db/report/present';
import { priceMovesIn } from '../../db/report/price-moves';
import { alertsIn, brokenIn, movesIn, offersAt, readingIn, stoodBefore, type Span } from '../../db/report/window';

/** Of what it is gathered: `report` is null of one that is not made yet, `most` the most moves. */
interface Of {
  report: ReportId | null;
  quietCuts?: number;
  most?: number;
}

/** What a report takes of a stretch, as it stood at the end of that. */
export async function gather(
  db: Db,
  order: ReportDefinition,
  span: Span,
  { report, quietCuts = 0, most }: Of,
): Promise<Gathered> {
  const followed = await followedBy(db, order);
  if (order.present.length > 0) return gatherPresent(db, order, span, followed, quietCuts);
  const { moves, leftOut, tooMany, firsts, since } = await movesIn(db, order, span, followed, {
    most,
    counted: report,
  });
  const priced = order.size.prices === 'below ours';
  const items = [...new Set(moves.flatMap(({ record }) => record.item?.id ?? []))];
  const [alerts, broken] = [await alertsIn(db, order, span, followed), await brokenIn(db, order, span, followed)];
  return {
    moves,
    stood: await stoodBefore(db, firsts),
    offers: priced || order.by === 'item' ? await offersAt(db, items, span) : new Map<ItemId, never[]>(),
    priced: priced ? await priceMovesIn(db, items, span) : new Map(),
    since,
    alerts: alerts.found,
    broken: broken.found,
    coverage: {
      ...(await readingIn(db, span, followed)),
      leftOut,
      tooMany: tooMany || alerts.more || broken.more,
      quietCuts,
    },
  };
}

/** What stands at the end of a stretch, with what was raised and broke in it. */
async function gatherPresent(
  db: Db,
  order: ReportDefinition,
  span: Span,
  followed: WatchId[] | null,
  quietCuts: number,
): Promise<Gathered> {
  const [alerts, broken] = [await alertsIn(db, order, span, followed), await brokenIn(db, order, span, followed)];
  return {
    present: await presentAt(db, order.present, span),
    moves: [],
    stood: new Map(),
    offers: new Map(),
    priced: new Map(),
    since: new Map(),
    alerts: alerts.found,
    broken: broken.found,
    coverage: { ...(await readingIn(db, span, followed)), leftOut: 0, tooMany: alerts.more || broken.more, quietCuts },
  };
}

/** All that an edition's share of its stretch holds, also what it has no room for. */
async function shareIn(
  db: Db,
  report: ReportId,
  order: ReportDefinition,
  span: Span,
  share: Share | null,
): Promise<Gathered | null> {
  if (share?.of === 'broken') return null;
  const found = await gather(db, order, span, { report });
  return share === null ? found : shareOf(share, found);
}

/** All lines of an edition, also those that it has no room for. */
export async function linesIn(
  db: Db,
  report: ReportId,
  order: ReportDefinition,
  span: Span,
  share: Share | null,
): Promise<Line[]> {
  const found = await shareIn(db, report, order, span, share);
  return found === null ? [] : everyLine(order, found);
}

/** The same in its order, each with its group. */
export async function orderedLinesIn(...of: Parameters<typeof linesIn>): Promise<GroupedLine[]> {
  const [, , order] = of;
  const found = await shareIn(...of);
  return found === null ? [] : linesInOrder(order, everyLine(order, found), found);
}
