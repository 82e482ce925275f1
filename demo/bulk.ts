import type { PersonId, WatchId } from '#core/id';
import { markOf, press, type Stencil } from '#core/plan/stencil';
import type { Decimal } from '#core/value/decimal';
import { isMeasure } from '#core/value/value';
import { intervalLength, type Instant } from '#core/when/interval';
import { bulkOf, takeSteps } from '#server/actions/bulk';
import { inTransaction, type Db, type Pool } from '#server/db/base/pool';
import { addStencil } from '#server/db/watch/stencils';
import { watchesOf, type WatchNow } from '#server/db/watch/views/watch-now';
import { setWatchTags, taggingOf } from '#server/actions/edit-watch';
import { crossing } from './rules';

// What the analyst does to many watches at once: she tags them, and puts a stencil on some.

/** What a watch is tagged with, by words of its name. */
const TAGS: [RegExp, string][] = [
  [/smoker/i, 'smokers'],
  [/hive|nucleus/i, 'hives'],
  [/jars|lids/i, 'jars'],
  [/syrup|fondant|wax/i, 'feed and wax'],
  [/store|hives$|forage|bulletin/i, 'apiary'],
  [/orders|summary|spend/i, 'web shop'],
];

async function watches(db: Db): Promise<WatchNow[]> {
  const { rows } = await db.query<{ id: WatchId }>(`SELECT id FROM watch WHERE state <> 'deleted' ORDER BY id`);
  return watchesOf(
    db,
    rows.map(({ id }) => id),
  );
}

/** Tags every watch by what it is of. */
export async function tagWatches(pool: Pool, owner: PersonId, now: Instant): Promise<void> {
  await inTransaction(pool, async (db) => {
    const taggings = (await watches(db)).flatMap((watch) => {
      const tags = TAGS.filter(([pattern]) => pattern.test(watch.definition.subject)).map(([, tag]) => tag);
      return tags.length > 0 && watch.tags.length === 0 ? taggingOf(watch, tags) : [];
    });
    await setWatchTags(db, taggings, { person: owner, at: now });
  });
}

const ON = ['Jars 340 g, case of 72', 'Fondant 12.5 kg', 'Feeding syrup 14 kg', 'Ventilated suit, M'];

/** Makes a stencil and puts it on some watches, each with a limit of its own. */
export async function putStencil(pool: Pool, owner: PersonId, now: Instant): Promise<void> {
  await inTransaction(pool, async (db) => {
    const all = await watches(db);
    const from = all.find(({ definition }) => definition.subject === ON[0]);
    const value = from?.series.find(({ field }) => field === 'price')?.value;
    if (from === undefined || value === undefined || !isMeasure(value)) return;
    const stencil: Stencil = {
      name: 'A tenth off',
      rule: { when: crossing('price', 'below', value), whenAlreadyMet: 'wait', weight: 'low' },
      fields: from.definition.fields.map(({ key, label, type, role, mode }) => ({
        key,
        label,
        type,
        mode,
        ...(role === undefined ? {} : { role }),
      })),
      present: { price: value },
      limits: { as: 'present', percent: '-10' as Decimal },
      readers: { are: 'those of the watch' },
    };
    const id = await addStencil(db, stencil, { person: owner, at: now });
    const steps = all.flatMap((watch) => {
      if (!ON.includes(watch.definition.subject) || watch.site !== from.site) return [];
      const present = Object.fromEntries(watch.series.map(({ field, value: each }) => [field, each]));
      const audiences = [...new Set(watch.rules.flatMap((rule) => rule.audiences))];
      const made = press(stencil, {
        fields: watch.definition.fields,
        present,
        intervalMs: intervalLength(watch.frequency),
        audiences,
      });
      if (!made.ok) return [];
      const definition = {
        ...made.value.definition,
        from: { kind: 'stencil' as const, id, name: stencil.name, version: 1, made: markOf(made.value.definition) },
      };
      const { state, tags, frequency, rules } = bulkOf(watch);
      return [
        {
          watch: watch.id,
          state,
          tags,
          frequency,
          rules: [...rules, { id: null, definition, audiences: made.value.audiences }],
        },
      ];
    });
    await takeSteps(db, steps, { person: owner, at: now });
  });
}
