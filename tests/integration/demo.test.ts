import { mkdtempSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { replay } from '#demo/replay';
import { HISTORY } from '#demo/scenario';
import { readExchange, writeExchange } from '#core/plan/exchange';
import { readConfig } from '#server/config';
import { exchangeHere, namesHere, writtenWatches } from '#server/actions/exchange';
import { openPool, type Pool } from '#server/db/base/pool';
import { prepareDatabase } from '#server/db/base/prepare';
import { anyPort } from '#scripts/system/ports';
import { readDocument, writeExchangeCsv } from '#server/shapes/exchange';
import { TEXTS_DOMAIN } from '#standins/texts/taken';
import { freshDatabase } from '../support/world';

const END = Date.UTC(2026, 10, 20, 12);

/** Four weeks of looks take a while on a machine that has other things to do. */
const FOUR_WEEKS_MS = 900_000;

let pool: Pool;
let runs = 0;
let shares: number[] = [];
let mailFolder = '';

beforeAll(async () => {
  const [standinsPort, smtpPort] = [await anyPort(), await anyPort()];
  const folder = mkdtempSync(join(inject('scratch'), 'demo-'));
  const environment = {
    SHRIKE_DATABASE_URL: await freshDatabase(),
    SHRIKE_ADMITTED: `*.localhost:${standinsPort}`,
    SHRIKE_SMTP_PORT: String(smtpPort),
    SHRIKE_TEXT_GATEWAY: TEXTS_DOMAIN,
    SHRIKE_SECRET_KEY: 'a key for tests alone',
    SHRIKE_LOG_LEVEL: 'silent',
  };
  await prepareDatabase(readConfig(environment));
  runs = await replay({ environment, standinsPort, smtpPort, standinsFolder: folder }, END, (share) =>
    shares.push(share),
  );
  pool = openPool(environment.SHRIKE_DATABASE_URL, 2, () => undefined);
  mailFolder = join(folder, 'mailroom');
}, FOUR_WEEKS_MS);
afterAll(() => pool.end());

const one = async (text: string): Promise<number> =>
  Number((await pool.query<{ n: number }>(`SELECT (${text})::int AS n`)).rows[0]?.n);

describe('the history of the demo', () => {
  it('is made by real runs over four weeks, none of them outside', async () => {
    expect(runs).toBeGreaterThan(2000);
    expect(await one('SELECT count(*) FROM run')).toBe(runs);
    expect(
      await one(
        `SELECT count(*)
          FROM run
          WHERE started_at < '${new Date(END - HISTORY).toISOString()}'
            OR started_at > '${new Date(END).toISOString()}'`,
      ),
    ).toBe(0);
    shares = shares.filter((share, at) => at === 0 || share >= (shares[at - 1] ?? 0));
    expect(shares.at(-1)).toBeGreaterThan(0.9);
  });

  it('has something to tell: changes, alerts, mails, and watches that are broken', async () => {
    expect(await one('SELECT count(*) FROM change')).toBeGreaterThan(30);
    expect(await one('SELECT count(*) FROM alert')).toBeGreaterThan(5);
    expect(await one(`SELECT count(*) FROM watch WHERE problem->>'reason' <> 'in question'`)).toBe(2);
    expect(await one('SELECT count(DISTINCT watch_id) FROM question WHERE answer IS NULL')).toBeGreaterThan(0);
    expect(readdirSync(mailFolder)).toHaveLength(
      await one(`SELECT count(*) FROM delivery WHERE state = 'sent' AND channel <> 'webhook'`),
    );
    expect(await one(`SELECT count(*) FROM delivery WHERE state = 'sent' AND channel = 'webhook'`)).toBeGreaterThan(0);
    expect(await one(`SELECT count(*) FROM delivery WHERE state = 'sent' AND channel = 'text'`)).toBeGreaterThan(0);
  });

  it('has watches that say the same of themselves once they went out and came back, as JSON and as CSV', async () => {
    const document = writeExchange(await writtenWatches(pool, null, 1_000), await namesHere(pool), END);
    for (const text of [JSON.stringify(document), writeExchangeCsv(document)]) {
      const read = readDocument(text);
      if (!read.ok) throw new Error(read.error);
      expect(read.value.refused).toEqual([]);
      const here = await exchangeHere(
        pool,
        document.watches.map(({ number, address, reads }) => ({ number, address, subject: reads.subject })),
        'en-GB',
      );
      const lines = readExchange(read.value.document, here);
      expect([lines.length, lines.filter(({ does }) => does !== 'nothing')]).toEqual([document.watches.length, []]);
    }
  });

  it('keeps every promise of the record', async () => {
    // A change of a watch with a rule on its field, said before it and of all records, has a verdict, with its inputs.
    expect(
      await one(`SELECT count(*) FROM change c JOIN rule r ON r.watch_id = c.watch_id
        JOIN rule_version v ON v.rule_id = r.id AND v.version = r.version
        WHERE r.field = c.field AND r.judged_at <= c.seen_at AND NOT v.definition ? 'only' AND NOT EXISTS (SELECT
        FROM verdict x WHERE x.change_id = c.id AND x.rule_id = r.id)`),
    ).toBe(0);
    expect(await one('SELECT count(*) FROM verdict WHERE change_id IS NOT NULL')).toBeGreaterThan(30);
    // Conditions of many kinds were met in its weeks.
    expect(
      await one(`SELECT count(DISTINCT coalesce(v.definition->'when'->>'kind', 'several')) FROM alert a
        JOIN rule r ON r.id = a.rule_id JOIN rule_version v ON v.rule_id = r.id AND v.version = r.version`),
    ).toBeGreaterThanOrEqual(9);
    // Good readings of a series follow each other without overlap, and each change of a stepwise field is a step
    // between two.
    expect(
      await one(
        `SELECT count(*)
          FROM (SELECT last_seen, lead(first_seen) OVER (PARTITION BY series_id ORDER BY first_seen) AS next
          FROM reading WHERE quality IS DISTINCT FROM 'bad') r
          WHERE next <= last_seen`,
      ),
    ).toBe(0);
    const stepwise = `SELECT s.id FROM series s JOIN watch w ON w.id = s.watch_id
      JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
      JOIN jsonb_array_elements(v.definition->'fields') f ON f->>'key' = s.field AND f->>'mode' = 'stepwise'`;
    expect(await one('SELECT count(*) FROM change WHERE series_id IS NOT NULL')).toBe(
      await one(`SELECT count(*) - count(DISTINCT series_id) FROM reading WHERE series_id IN (${stepwise})`),
    );
    // Records that come and go are news of their own; measured series make none by themselves.
    expect(await one(`SELECT count(*) FROM change WHERE kind = 'record'`)).toBeGreaterThan(20);
    expect(await one(`SELECT count(*) FROM change WHERE series_id NOT IN (${stepwise})`)).toBe(0);
    // News has one order without gaps; what is told at once reaches from where the edition before it ended, and a cut
    // from the cut before it.
    await pool.query('SELECT place_news()');
    const news = ['change', 'alert', 'notice', 'first_reading']
      .map((table) => `(SELECT count(*) FROM ${table})`)
      .join(' - ');
    expect(await one(`SELECT (SELECT last FROM commit_order) - ${news}`)).toBe(0);
    expect(
      await one(
        `SELECT count(*)
          FROM (SELECT from_seq, lag(to_seq) OVER (PARTITION BY report_id ORDER BY number) AS before FROM edition
          WHERE cut_id IS NULL) e
          WHERE before <> from_seq`,
      ),
    ).toBe(0);
    expect(
      await one(
        `SELECT count(*)
          FROM (SELECT from_seq, lag(to_seq) OVER (PARTITION BY report_id ORDER BY number) AS before FROM cut) c
          WHERE before <> from_seq`,
      ),
    ).toBe(0);
    // Each cut was made into its edition, or had nothing to tell; some of each report that goes by the clock were.
    expect(
      await one(
        `SELECT count(*)
          FROM cut c
          WHERE composed_at IS NULL OR (lines > 0) <> EXISTS (SELECT FROM edition e WHERE e.cut_id = c.id)`,
      ),
    ).toBe(await one(`SELECT count(DISTINCT c.id) FROM cut c JOIN edition e ON e.cut_id = c.id WHERE c.lines = 0`));
    expect(await one('SELECT count(DISTINCT e.report_id) FROM edition e WHERE e.cut_id IS NOT NULL')).toBe(4);
    expect(
      await one(
        `SELECT count(*)
          FROM edition_alert x
          JOIN edition e ON e.id = x.edition_id
          JOIN alert a ON a.id = x.alert_id
          WHERE a.seq <= e.from_seq OR a.seq > e.to_seq`,
      ),
    ).toBe(0);
    // A reader's mails of a report are numbered without gaps, and each was accepted once or kept back.
    expect(
      await one(
        `SELECT count(*)
          FROM (SELECT max(d.number) AS last, count(d.number) AS n FROM delivery d
          WHERE d.number IS NOT NULL AND d.beside IS NULL GROUP BY report_id, person_id) r
          WHERE last <> n`,
      ),
    ).toBe(0);
    expect(await one(`SELECT count(*) FROM delivery WHERE state NOT IN ('sent', 'kept back')`)).toBe(0);
    // An episode is open exactly where its rule stands raised and told.
    expect(
      await one(
        `SELECT count(*)
          FROM rule_state s
          WHERE (s.name = 'raised') <> EXISTS (SELECT FROM episode e
          WHERE e.rule_id = s.rule_id AND e.record_id = s.record_id AND e.closed_at IS NULL)`,
      ),
    ).toBe(0);
  });
});
