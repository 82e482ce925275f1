import type { PersonId, SiteId, WatchId } from '#core/id';
import type { ExchangedWatch, ExchangeLine, Here, Names, WrittenWatch } from '#core/plan/exchange';
import { fail, ok, type Result } from '#core/result';
import { writeHere } from '../files/watch-document';
import { bodyOf, describeTaskProblem, type ReadingPool, type TaskProblem } from '../reading/pool';
import { DOCUMENT_PART } from '../reading/parts';
import { calledIn } from './bulk';
import { nextBatch, type Editing } from '../db/watch/edits';
import { listChannels } from '../db/item/items';
import { listAudiences } from '../db/person/people';
import type { Db } from '../db/base/pool';
import type { SourceRequest, SourceWay } from '../fetch/request';
import { findWatch, watchesOf } from '../db/watch/views/watch-now';
import { createWatch, editWatch, saidIn, setWatchState, setWatchTags, taggingOf } from './edit-watch';

// Watches with their rules out of here, and into here.

/** By what a watch of a document is known. */
type NamedWatch = Pick<ExchangedWatch, 'number' | 'address'> & { subject: string };

/** By which names people, lists and channels are known outside. */
export async function namesHere(db: Db): Promise<Names> {
  const audiences = new Map(
    (await listAudiences(db)).map(({ key, name, members }) => [
      key,
      key.startsWith('list:') ? `list:${name}` : `person:${members[0]?.email ?? name}`,
    ]),
  );
  const owners = new Map(
    [...audiences].flatMap(([key, name]) =>
      key.startsWith('person:')
        ? [[Number(key.slice('person:'.length)) as PersonId, name.slice('person:'.length)] as const]
        : [],
    ),
  );
  const channels = new Map<SiteId, string>((await listChannels(db)).map(({ id, name }) => [id, name]));
  return { audiences, owners, channels };
}

/** Some watches, or all that there are up to so many, as they are written out. */
export async function writtenWatches(db: Db, ids: readonly WatchId[] | null, most: number): Promise<WrittenWatch[]> {
  const meant =
    ids ??
    (
      await db.query<{ id: WatchId }>(`SELECT id FROM watch WHERE state <> 'deleted' ORDER BY id LIMIT $1`, [most])
    ).rows.map(({ id }) => id);
  const requests = new Map(
    (
      await db.query<{ id: WatchId; request: object }>(
        'SELECT w.id, s.request FROM watch w JOIN source s ON s.id = w.source_id WHERE w.id = ANY($1)',
        [meant],
      )
    ).rows.map(({ id, request }) => [id, request]),
  );
  const watches = await watchesOf(db, [...meant]);
  return watches
    .sort((one, other) => one.id - other.id)
    .map((watch) => {
      const { id, address, way, site, state, tags } = watch;
      return { ...saidIn(watch), id, address, way, site, state, tags, request: requests.get(id) ?? {} };
    });
}

/** Holds what documents add and change until the end: what is looked through here is so when it is done. */
export async function holdExchange(db: Db): Promise<void> {
  await db.query(`SELECT pg_advisory_xact_lock(hashtext('shrike import'))`);
}

/**
 * What a document is read against: of the watches at the addresses that it names, those that it knows by number or by
 * name.
 */
export async function exchangeHere(db: Db, said: readonly NamedWatch[], locale: string): Promise<Here> {
  const { rows } = await db.query<{ id: WatchId }>(
    `SELECT w.id
       FROM watch w
       JOIN source s ON s.id = w.source_id
       JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
      WHERE w.state <> 'deleted'
        AND EXISTS (
              SELECT FROM unnest($1::text[], $2::int[], $3::text[]) AS d (address, number, name)
               WHERE d.address = s.address AND (d.number = w.id OR d.name = v.definition->>'subject'))`,
    [said.map(({ address }) => address), said.map(({ number }) => number), said.map(({ subject }) => subject)],
  );
  return {
    watches: await writtenWatches(
      db,
      rows.map(({ id }) => id),
      rows.length,
    ),
    names: await namesHere(db),
    called: await calledIn(db, locale),
  };
}

/**
 * What each line of a document would do here, worked out in a thread, part by part; or why it is none that can be read.
 */
export async function lookThroughDocument(
  db: Db,
  reading: ReadingPool,
  text: string,
  locale: string,
): Promise<Result<ExchangeLine[], string>> {
  const document = bodyOf(text);
  const { key } = document;
  const counted = await reading.run('document', { key }, [document]);
  if (!counted.ok) return fail(describeTaskProblem(counted.error, 'this document'));
  if (!counted.value.ok) return counted.value;
  const parts = Array.from({ length: Math.ceil(counted.value.value / DOCUMENT_PART) }, (_, at) => at * DOCUMENT_PART);
  const named = allDone(
    await reading.each(
      'document names',
      parts.map((from) => ({ key, from })),
      [document],
    ),
  );
  if (!named.ok) return named;
  const here = bodyOf(writeHere(await exchangeHere(db, named.value, locale)));
  return allDone(
    await reading.each(
      'document lines',
      [true, false].flatMap((ahead) => parts.map((from) => ({ key, here: here.key, from, ahead }))),
      [document, here],
    ),
  );
}

/** What all parts brought, in their order; or why one of them came to nothing. */
function allDone<T>(parts: Result<T[], TaskProblem>[]): Result<T[], string> {
  const all: T[] = [];
  for (const part of parts) {
    if (!part.ok) return fail(describeTaskProblem(part.error, 'this document'));
    all.push(...part.value);
  }
  return ok(all);
}

/** Does what lines of a document would do, all or none. Returns the number by which it is undone. */
export async function takeExchange(
  db: Db,
  lines: readonly ExchangeLine[],
  mostAtOnce: number,
  editing: Editing,
): Promise<number> {
  const batch = await nextBatch(db);
  for (const line of lines)
    if (line.plan !== null && line.does !== 'nothing')
      await takeLine(db, line.watch, line.plan, mostAtOnce, { ...editing, batch });
  return batch;
}

async function takeLine(
  db: Db,
  id: WatchId | null,
  plan: NonNullable<ExchangeLine['plan']>,
  mostAtOnce: number,
  editing: Editing & { batch: number },
): Promise<void> {
  const { definition, frequency, address, site, tags, state } = plan;
  const rules = plan.rules.map((rule) => ({ ...rule, audiences: [...rule.audiences] }));
  const source = {
    address,
    host: new URL(address).host,
    site,
    mostAtOnce,
    way: plan.way as SourceWay,
    request: plan.request as SourceRequest,
  };
  const said = { definition, frequency, rules };
  const made = id ?? (await createWatch(db, source, said, editing));
  const watch = await findWatch(db, made);
  if (watch === null) return;
  if (id !== null)
    await editWatch(db, id, said, { basedOn: watch.version, editor: editing.person, batch: editing.batch }, editing.at);
  if (JSON.stringify(watch.tags) !== JSON.stringify(tags)) await setWatchTags(db, [taggingOf(watch, tags)], editing);
  if (watch.state !== state)
    await setWatchState(db, made, state, editing.at, { person: editing.person, batch: editing.batch });
}
