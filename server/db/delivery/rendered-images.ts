import type { AlertId, ChangeId, SeriesId, WatchId } from '#core/id';
import type { MoveId } from '#core/tell/edition/move';
import { storedNews, type News } from '#core/tell/news';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../base/pool';

/** A picture as it was drawn; null where there was nothing to draw. */
export type StoredImage = { type: string; body: Buffer } | null;

interface KeptRow {
  name: string;
  type: string | null;
  body: Buffer | null;
}

/** Those of some pictures that were drawn before, by their names. */
export async function findRenderedImages(db: Db, names: string[]): Promise<Map<string, StoredImage>> {
  const { rows } = await db.query<KeptRow>({
    name: 'find drawn',
    text: 'SELECT name, type, body FROM rendered_image WHERE name = ANY($1)',
    values: [names],
  });
  return new Map(rows.map(({ name, type, body }) => [name, type === null || body === null ? null : { type, body }]));
}

const KEEP = `
INSERT INTO rendered_image (name, type, body, rendered_at) SELECT n.name, n.type, n.body, $4
FROM unnest($1::text[], $2::text[], $3::bytea[]) AS n(name, type, body)
ON CONFLICT DO NOTHING`;

/** Keeps pictures under their names; what another one kept meanwhile stays. */
export async function storeRenderedImage(db: Db, drawn: ReadonlyMap<string, StoredImage>, at: Instant): Promise<void> {
  const images = [...drawn.values()];
  const values = [
    [...drawn.keys()],
    images.map((image) => image?.type ?? null),
    images.map((image) => image?.body ?? null),
    moment(at),
  ];
  await db.query(KEEP, values);
}

/** What an alert is about, as far as it can be drawn. */
export interface AlertImage {
  id: AlertId;
  watch: WatchId;
  series: SeriesId | null;
  change: ChangeId | null;
  at: Instant;
  news: News;
}

const ALERTS = `SELECT id, watch_id AS watch, series_id AS series, change_id AS change, seen_at AS at, news
  FROM alert
  WHERE id = ANY($1)`;

/** What some alerts are about. */
export async function alertsToDraw(db: Db, ids: AlertId[]): Promise<AlertImage[]> {
  const { rows } = await db.query<Omit<AlertImage, 'news'> & { news: unknown }>(ALERTS, [ids]);
  return rows.flatMap(({ news, ...rest }) => {
    const known = storedNews.readKnown(news);
    return known === null ? [] : [{ ...rest, news: known }];
  });
}

const PAGED = `
SELECT c.id, c.watch_id AS watch FROM change c JOIN run r ON r.id = c.run_id AND r.started_at = c.seen_at
JOIN picture p ON p.snapshot_id = r.snapshot_id
WHERE c.id = ANY($1)`;

/** Of some moves those of whose page a picture is kept, with their watches. */
export async function pagedMoves(db: Db, ids: MoveId[]): Promise<Map<MoveId, { id: ChangeId; watch: WatchId }>> {
  if (ids.length === 0) return new Map();
  const { rows } = await db.query<{ id: ChangeId; watch: WatchId }>(PAGED, [ids]);
  return new Map(rows.map((row) => [row.id, row]));
}

const SERIES = `
SELECT id, series_id AS series FROM change WHERE id = ANY($1) AND series_id IS NOT NULL
UNION ALL SELECT series_id, series_id FROM first_reading WHERE series_id = ANY($1)`;

/** The series that some moves are of. */
export async function seriesOfMoves(db: Db, ids: MoveId[]): Promise<Map<MoveId, SeriesId>> {
  const { rows } = await db.query<{ id: MoveId; series: SeriesId }>(SERIES, [ids]);
  return new Map(rows.map(({ id, series }) => [id, series]));
}
