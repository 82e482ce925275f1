import type { RecordId, RuleId, WatchId } from '#core/id';
import type { Standing } from '#core/judge/about';
import type { KnownWatch } from '#core/judge/known';
import { storedDefinition } from '#core/read/definition';
import type { Instant } from '#core/when/interval';
import { inOneTurn, type Db } from '../db/base/pool';
import { RECORD_COLUMNS, recordsOf, RULE_COLUMNS, rulesOf, type RecordRow, type RuleRow } from './known-rows';
import type { RuledWatch } from './store/states';

/**
 * A watch with some of its rules and what these remember, as far as something other than a run of its own concerns
 * them.
 */
export type SubjectWatch = RuledWatch & KnownWatch;

/** Which rules are meant, and of which of their records; of all where none are named. */
export interface Subjects {
  rules: RuleId[];
  records: RecordId[] | null;
}

const WATCHES = `
SELECT w.id, w.version, w.interval_ms AS "intervalMs", w.last_good_at AS "lastGoodAt", v.definition, t.name AS site,
  s.address AS page
FROM watch w
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
JOIN source s ON s.id = w.source_id
JOIN site t ON t.id = s.site_id
WHERE w.id IN (SELECT watch_id FROM rule WHERE id = ANY($1))`;

const RECORDS = `
SELECT ${RECORD_COLUMNS}
FROM record r JOIN watch w ON w.id = r.watch_id LEFT JOIN series s ON s.record_id = r.id
WHERE r.watch_id IN (SELECT watch_id FROM rule WHERE id = ANY($1)) AND ($2::bigint[] IS NULL OR r.id = ANY($2))`;

const RULES = `
SELECT ${RULE_COLUMNS}, (
  SELECT jsonb_object_agg(r.identity, t.memory) FROM rule_state t JOIN record r ON r.id = t.record_id
  WHERE t.rule_id = u.id AND t.version = u.judged_version AND ($2::bigint[] IS NULL OR t.record_id = ANY($2))
) AS memories
FROM rule u JOIN rule_version uv ON uv.rule_id = u.id AND uv.version = u.version
WHERE u.id = ANY($1) AND u.ended_at IS NULL ORDER BY u.id`;

interface WatchRow {
  id: WatchId;
  version: number;
  intervalMs: number;
  lastGoodAt: Instant | null;
  definition: unknown;
  site: string;
  page: string;
}

/**
 * Loads rules with their watches, the records that are meant, and what is remembered of those. Its caller holds their
 * sources.
 */
export async function loadSubjects(db: Db, { rules, records }: Subjects): Promise<SubjectWatch[]> {
  const values = [rules, records];
  const [watches, recordRows, ruleRows] = await inOneTurn(db, [
    { name: 'watches of rules', text: WATCHES, values: [rules] },
    { name: 'records of rules', text: RECORDS, values },
    { name: 'rules with memories', text: RULES, values },
  ]);
  const known = recordsOf((recordRows?.rows ?? []) as RecordRow[]);
  const own = (ruleRows?.rows ?? []) as RuleRow[];
  return ((watches?.rows ?? []) as WatchRow[]).map(({ definition, ...watch }) => ({
    ...watch,
    definition: storedDefinition.read(definition),
    readVersion: watch.version,
    records: known.get(watch.id) ?? new Map(),
    missing: [],
    rules: rulesOf(own.filter(({ watchId }) => watchId === watch.id)),
  }));
}

/** How a record stands where nothing was read of it now. */
export function standingOf({ definition, records }: SubjectWatch, identity: string): Standing {
  return {
    fields: new Map(definition.fields.map((field) => [field.key, field])),
    read: new Map(),
    series: (field) => records.get(identity)?.series.get(field) ?? null,
  };
}
