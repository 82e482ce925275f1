import type { ReportId } from '#core/id';
import { composeEdition, tellsSomething, type EditionDocument, type EditionWindow } from '#core/tell/edition/document';
import { canonical } from '#core/canonical';
import type { ReportDefinition } from '#core/tell/definition';
import type { Gathered } from '#core/tell/edition/gathered';
import { cutsDue, cutWith } from '#core/when/cadence';
import { DAY, type Instant } from '#core/when/interval';
import { reportStanding } from '../../db/report/cuts';
import { followedBy } from '../../db/report/following';
import { theRow, moment, type Db } from '../../db/base/pool';
import { placeNews } from '../../db/report/reports';
import type { Span } from '../../db/report/window';
import { differenceOf, type Difference } from './difference';
import { gather } from './gather';
import { partsOf } from './parts';
import { endsFirst, type EndsFirst } from './store';

const MOST_CUTS = 200;
/** Whoever looks waits for it: of more moves than these the first are shown, and it says so. */
const MOST_MOVES = 20_000;

/** What a report would tell now, edition by edition; and of a cadence, what the last seven days would have been. */
export interface Preview {
  documents: EditionDocument[];
  week: Week;
  /** Null of one that is not made yet, stands as it is kept, or holds but after what ends first. */
  difference: Difference | null;
  /** What ends first as it was said before. */
  endsFirst: EndsFirst | null;
}

interface Week {
  cuts: number;
  /** There would have been more than that. */
  more: boolean;
  editions: number;
  lines: number;
  longest: number;
  quiet: number;
  /** Of a report with an edition for each value, how many of each: named by what readers call it. */
  parts: { value: string | null; editions: number }[];
  /** How many of them tell what broke alone. */
  broken: number;
}

const SINCE = `
SELECT (SELECT last FROM commit_order) AS last,
  coalesce((SELECT max(seq)
  FROM (SELECT seq FROM change WHERE seen_at <= $1 AND seq IS NOT NULL ORDER BY seen_at DESC, seq DESC LIMIT 100) c),
    0) AS "from"`;

/** Where the order of commits stood at a moment, as far as changes tell. */
async function placesAt(db: Db, at: Instant): Promise<{ from: number; last: number }> {
  return theRow(await db.query<{ from: number; last: number }>(SINCE, [moment(at)]));
}

/**
 * The next edition of a standing order as it stands now: since its last cut, or, of one that is not made yet, since the
 * cut that it would have had.
 */
export async function previewOf(
  db: Db,
  order: ReportDefinition,
  report: ReportId | null,
  now: Instant,
): Promise<Preview> {
  await placeNews(db);
  const { last } = await placesAt(db, now);
  const kept = report === null ? null : await reportStanding(db, report);
  const span =
    kept === null
      ? await spanBefore(db, order, last, now)
      : { fromSeq: kept.cutSeq, from: kept.cutAt, toSeq: last, until: now };
  const gathered = await gather(db, order, span, { report, most: MOST_MOVES });
  const stretch: EditionWindow = { from: span.from, until: now, missed: null };
  const ends = kept === null ? null : endsFirst(kept, order.cadence, false, now);
  const isChanged = kept !== null && ends === null && canonical(kept.order) !== canonical(order);
  const documents = partsOf(order, stretch, gathered).map(({ document }) => document);
  return {
    documents: documents.length > 0 ? documents : [composeEdition(order, stretch, gathered)],
    week: await weekOf(db, order, last, now),
    difference: isChanged
      ? await differenceOf(db, kept.order, { order, gathered }, span, { report, most: MOST_MOVES })
      : null,
    endsFirst: ends,
  };
}

async function spanBefore(db: Db, { cadence }: ReportDefinition, toSeq: number, now: Instant): Promise<Span> {
  const from = cutsDue(cadence, now - 35 * DAY, now, 2_000).at(-1) ?? now - 7 * DAY;
  return { fromSeq: (await placesAt(db, from)).from, toSeq, from, until: now };
}

/**
 * What the planned cuts of the last week would have brought, each from the one before; small moves are not added up
 * over several.
 */
async function weekOf(db: Db, order: ReportDefinition, last: number, now: Instant): Promise<Week> {
  const begun = now - 7 * DAY;
  const span = { fromSeq: (await placesAt(db, begun)).from, toSeq: last, from: begun, until: now };
  const gathered = await gather(db, order, span, { report: null, most: MOST_MOVES });
  const { cuts, more } = await cutsOf(db, order, gathered, span);
  const byCut = cuts.map((until, place) => {
    const stretch: EditionWindow = { from: cuts[place - 1] ?? begun, until, missed: null };
    const isIn = ({ at }: { at: Instant }) => at > stretch.from && at <= stretch.until;
    const alerts = gathered.alerts.filter(({ news }) => isIn({ at: news.seenAt }));
    const broken = gathered.broken.filter(({ since }) => isIn({ at: since }));
    return partsOf(order, stretch, { ...gathered, moves: gathered.moves.filter(isIn), alerts, broken });
  });
  const told = byCut.flat().map(({ document }) => document);
  const lines = told.map(({ counts }) => counts.lines);
  return {
    cuts: cuts.length,
    more,
    editions: told.length,
    lines: lines.reduce((sum, each) => sum + each, 0),
    longest: Math.max(0, ...lines),
    quiet: byCut.filter((parts) => !parts.some(({ document }) => tellsSomething(document))).length,
    parts: countParts(told),
    broken: told.filter(({ share }) => share?.of === 'broken').length,
  };
}

/** So many runs are looked through: where there are more, there are more cuts than are counted. */
const MOST_LOOKS = 20_000;

const LOOKED = `
SELECT DISTINCT at FROM (
  SELECT started_at AS at FROM watch_run
  WHERE started_at > $2 AND started_at <= $3 AND ($1::int[] IS NULL OR watch_id = ANY($1)) LIMIT ${MOST_LOOKS}
) l ORDER BY at LIMIT $4`;

/** When a stretch would have been cut: by the clock, with each run, or with news, gathered where that is asked. */
async function cutsOf(
  db: Db,
  order: ReportDefinition,
  { moves, alerts, broken }: Gathered,
  { from, until }: Span,
): Promise<{ cuts: Instant[]; more: boolean }> {
  const { cadence } = order;
  if (cutWith(cadence) === null) return { cuts: cutsDue(cadence, from, until, MOST_CUTS), more: false };
  const news = [
    ...moves.map(({ at }) => at),
    ...alerts.map(({ news: { seenAt } }) => seenAt),
    ...broken.map(({ since }) => since),
  ];
  const looked = cadence.cut === 'at once' ? [] : await looksAt(db, order, from, until);
  const gather = cadence.cut === 'at once' ? (cadence.gather ?? 0) : 0;
  const cuts: Instant[] = [];
  for (const at of [...new Set([...news, ...looked])].sort((one, other) => one - other)) {
    const last = cuts.at(-1);
    if (last === undefined || at > last) cuts.push(at + gather);
  }
  return { cuts: cuts.slice(0, MOST_CUTS), more: cuts.length > MOST_CUTS };
}

async function looksAt(db: Db, order: ReportDefinition, from: Instant, until: Instant): Promise<Instant[]> {
  const followed = await followedBy(db, order);
  return (await db.query<{ at: Instant }>(LOOKED, [followed, moment(from), moment(until), MOST_CUTS + 1])).rows.map(
    ({ at }) => at,
  );
}

function countParts(told: EditionDocument[]): Week['parts'] {
  const counts = new Map<string | null, number>();
  for (const { share } of told) if (share?.of === 'value') counts.set(share.value, (counts.get(share.value) ?? 0) + 1);
  return [...counts].map(([value, editions]) => ({ value, editions }));
}
