import type { Gathered } from '#core/tell/edition/gathered';
import { linesOf } from '#core/tell/edition/lines';
import type { ReportDefinition } from '#core/tell/definition';
import type { Db } from '../../db/base/pool';
import type { Span } from '../../db/report/window';
import { gather } from './gather';

/** What an order that is saved anew adds to the stretch that runs, and drops from it (3). */
export interface Difference {
  added: Pieces;
  dropped: Pieces;
}

/** Pieces of news: how many, and what the first of them are of. */
interface Pieces {
  count: number;
  names: string[];
}

const MOST_NAMED = 3;

/** Holds what an order takes of a stretch against what it took as it is kept. */
export async function differenceOf(
  db: Db,
  kept: ReportDefinition,
  { order, gathered }: { order: ReportDefinition; gathered: Gathered },
  span: Span,
  of: Parameters<typeof gather>[3],
): Promise<Difference> {
  const before = takenBy(kept, await gather(db, kept, span, of));
  const now = takenBy(order, gathered);
  return { added: beside(now, before), dropped: beside(before, now) };
}

/** The news that an order takes, each piece with what it is of. */
function takenBy(order: ReportDefinition, found: Gathered): Map<string, string> {
  const lines = linesOf(order, found).flatMap(({ record, moves }) =>
    moves.map((id): [string, string] => [`change ${id}`, `${record.name} at ${record.site.name}`]),
  );
  const alerts = found.alerts.map(({ id, record }): [string, string] => [`alert ${id}`, `an alert on ${record.name}`]);
  const broken = found.broken.map(({ watch, subject, site }): [string, string] => [
    `broken ${watch}`,
    `what broke of ${subject} at ${site}`,
  ]);
  return new Map([...lines, ...alerts, ...broken]);
}

function beside(these: ReadonlyMap<string, string>, those: ReadonlyMap<string, string>): Pieces {
  const names = [...these].filter(([key]) => !those.has(key)).map(([, name]) => name);
  return { count: names.length, names: [...new Set(names)].slice(0, MOST_NAMED) };
}
