import type { PersonId } from '#core/id';
import { cpSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { migrate, MIGRATIONS } from '#server/db/base/migrate';
import { openPool, type Pool } from '#server/db/base/pool';
import { listDeliveries } from '#server/db/delivery/deliveries';
import { ensureAtOnceReport, listReports } from '#server/db/report/reports';
import { bareDatabase } from '../support/world';

/** The first migration that a Shrike with reports of one kind alone did not have. */
const CUTS = '0022_cuts.sql';

let pool: Pool;
beforeAll(async () => {
  pool = openPool(await bareDatabase(), 2, () => undefined);
  const before = mkdtempSync(join(inject('scratch'), 'migrations-'));
  cpSync(MIGRATIONS, before, { recursive: true });
  for (const name of readdirSync(before)) if (name >= CUTS) rmSync(join(before, name));
  expect(await migrate(pool, before, null)).not.toContain(CUTS);
});
afterAll(() => pool.end());

describe('a database with reports that told at once', () => {
  it('keeps them when it is brought up to date: who hears, who answers for them, and what was told', async () => {
    // As the Shrike of before wrote them.
    await pool.query(
      `INSERT INTO person (name, email)
        VALUES ('Inés Calloway', 'ines@heatherlow.example'), ('Ravi Oduya', 'ravi@heatherlow.example')`,
    );
    await pool.query(`INSERT INTO list (name) VALUES ('Pricing')`);
    await pool.query('INSERT INTO list_member VALUES (1, 1), (1, 2)');
    await pool.query('UPDATE commit_order SET last = 40');
    await pool.query(
      `INSERT INTO report (name, version, editions, cut_seq)
        VALUES ('Pricing, at once', 1, 1, 30), ('Ravi Oduya, at once', 1, 0, 40)`,
    );
    await pool.query(
      `INSERT INTO report_version
        VALUES (1, 1, '{"cadence": "at once", "form": "mail", "readers": ["list:1"]}', 1, '2026-11-01T09:00Z'),
         (2, 1, '{"cadence": "at once", "form": "mail", "readers": ["person:2"]}', 2, '2026-11-02T09:00Z')`,
    );
    await pool.query('INSERT INTO report_reader (report_id, list_id, person_id) VALUES (1, 1, NULL), (2, NULL, 2)');
    await pool.query(
      `INSERT INTO edition (id, report_id, report_version, number, from_seq, to_seq, made_at)
        VALUES (100, 1, 1, 1, 20, 30, '2026-11-05T10:00Z')`,
    );

    await pool.query(
      `INSERT INTO edition (id, report_id, report_version, number, from_seq, to_seq, made_at)
        VALUES (101, 1, 1, 2, 30, 40, '2026-11-06T10:00Z')`,
    );
    // Inés got both; what was for Ravi was kept back, each under a number of its own.
    await pool.query(
      `INSERT INTO delivery (id, edition_id, person_id, route, address, message_id, number, state, reason, subject,
        html, plain, ordered_at)
       SELECT e + p * 10, e, p, 'mail', 'x@heatherlow.example', '<' || e || '.' || p || '@heatherlow.example>', e - 99,
         CASE p WHEN 1 THEN 'sent' ELSE 'kept back' END, CASE p WHEN 2 THEN 'the address is not confirmed'
           END, 's', 'h', 'p', '2026-11-06T10:00Z'
       FROM generate_series(100, 101) e, generate_series(1, 2) p`,
    );
    await pool.query('INSERT INTO reader_number VALUES (1, 1, 2), (1, 2, 2)');

    expect(await migrate(pool)).toContain(CUTS);
    expect(await listReports(pool, 10)).toMatchObject([
      {
        name: 'Pricing, at once',
        owner: 'Inés Calloway',
        readers: ['Pricing'],
        editions: 1,
        dueAt: null,
        cutAt: Date.UTC(2026, 10, 6, 10),
        order: { cadence: { cut: 'at once' }, readers: ['list:1'], takes: { sorts: ['alerts', 'failures'] } },
        last: { id: 101, number: 2, lines: null },
      },
      {
        name: 'Ravi Oduya, at once',
        owner: 'Ravi Oduya',
        readers: ['Ravi Oduya'],
        cutAt: Date.UTC(2026, 10, 2, 9),
        last: null,
      },
    ]);
    const kept = await listDeliveries(pool, { states: ['kept back'] }, 10);
    expect(kept).toMatchObject([
      { personId: 2, number: null, subject: null, reason: 'unconfirmed', editions: { first: 1, last: 2, count: 2 } },
    ]);
    expect(await listDeliveries(pool, { states: ['sent'] }, 10)).toMatchObject([
      { personId: 1, number: 2, editions: { first: 2, last: 2 } },
      { personId: 1, number: 1, editions: { first: 1, last: 1 } },
    ]);
    expect((await pool.query('SELECT person_id, last FROM reader_number ORDER BY person_id')).rows).toEqual([
      { person_id: 1, last: 2 },
      { person_id: 2, last: 0 },
    ]);
    // Telling the same people at once joins what there is.
    expect(await ensureAtOnceReport(pool, ['list:1'], 1 as PersonId, Date.now())).toBe(1);
    expect(await ensureAtOnceReport(pool, ['person:1'], 1 as PersonId, Date.now())).toBe(3);
  });
});
