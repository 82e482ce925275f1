import type { PersonId } from '#core/id';
import { digestMail } from '#core/tell/edition/digest-mail';
import { composeEdition } from '#core/tell/edition/document';
import { blankDefinition, type ReportDefinition } from '#core/tell/definition';
import { DAY, HOUR, MINUTE } from '#core/when/interval';
import { readConfig } from '#server/config';
import { inTransaction, type Pool } from '#server/db/base/pool';
import { sendWaiting } from '#server/deliver/deliver';
import type { OutgoingMail } from '#server/deliver/mail';
import { moveClock } from '#server/pipeline/clock';
import { makeReport } from '#server/pipeline/report/store';
import { openServices, type Services } from '#server/work/services';
import { anyPort } from '#scripts/system/ports';
import { SMTPServer } from 'smtp-server';
import { withDatabase } from './database';
import { say } from './figures';

// A thousand reports that are due in the same minute: cut, made into editions and ordered; over rendering as many
// editions and inserting a row for each. Then their mails, sent one after another; over sending the same mails by the
// bare mail library to the same server.

const REPORTS = 1_000;
const MAILS = 200;
const START = Date.UTC(2026, 5, 1, 9);
const DUE = Date.UTC(2026, 5, 2, 6, 30);
const ORDER: ReportDefinition = {
  ...blankDefinition('Europe/London', []),
  cadence: { cut: 'daily', at: 450, zone: 'Europe/London' },
  whenNothing: 'say',
};

/** Measures reports that are due at once, and their mails. */
export async function benchReports(): Promise<void> {
  const port = await anyPort();
  const server = new SMTPServer({
    logger: false,
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    disableReverseLookup: true,
    onData: (stream, _session, done) => void stream.resume().on('end', () => done()),
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', () => resolve()));
  try {
    await withDatabase('', START, async ({ environment, pool, owner }) => {
      const services = await openServices(readConfig({ ...environment, SHRIKE_SMTP_PORT: String(port) }), () => DUE);
      try {
        await measure(services, pool, owner);
      } finally {
        await services.post.jobs.close();
        await services.close();
      }
    });
  } finally {
    await new Promise<void>((resolve) => server.close(() => resolve()));
  }
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

async function measure({ pipeline, post }: Services, pool: Pool, owner: PersonId): Promise<void> {
  const order = { ...ORDER, readers: [`person:${owner}`] };
  for (let n = 0; n < REPORTS; n += 1)
    await inTransaction(pool, (db) => makeReport(db, pipeline.ids, { name: `Report ${n}`, order }, owner, START));
  const floor = await timed(() => plainly(pool, order));
  const cut = await timed(() => moveClock(pipeline, DUE + MINUTE));
  const { rows } = await pool.query<{ n: number }>(`SELECT count(*)::int AS n FROM delivery WHERE state = 'queued'`);
  if (rows[0]?.n !== REPORTS) throw new Error(`${rows[0]?.n} mails were ordered`);
  say(
    `${REPORTS} reports due in one minute, each with an edition and a mail: ${cut.toFixed(0)} ms, ` +
      `${(cut / REPORTS).toFixed(1)} ms each; over rendering and a row each ${(cut / floor).toFixed(2)}`,
  );
  await pool.query(
    `UPDATE delivery SET state = 'given up' WHERE id > (SELECT id FROM delivery ORDER BY id LIMIT 1 OFFSET $1)`,
    [MAILS - 1],
  );
  const bare = await timed(() => barely(post, pool));
  const sent = await timed(() => sendWaiting(post));
  say(
    `${MAILS} mails sent one after another: ${(MAILS / (sent / 1000)).toFixed(0)} a second; over the bare mail ` +
      `library ${(sent / bare).toFixed(2)}`,
  );
}

/** Renders as many editions of nothing, and inserts a row for each. */
async function plainly(pool: Pool, order: ReportDefinition): Promise<void> {
  await pool.query('CREATE TABLE plain (html text, plain text)');
  const coverage = {
    looks: 0,
    failed: 0,
    stale: [],
    staleCount: 0,
    watches: 0,
    leftOut: 0,
    tooMany: false,
    quietCuts: 0,
  };
  const found = {
    moves: [],
    stood: new Map(),
    offers: new Map(),
    priced: new Map(),
    since: new Map(),
    alerts: [],
    broken: [],
    coverage,
  };
  for (let n = 0; n < REPORTS; n += 1) {
    const { html, text } = digestMail({
      document: composeEdition(order, { from: DUE - DAY, until: DUE, missed: null }, found),
      report: `Report ${n}`,
      edition: 1,
      readerName: 'Inés',
      readerNumber: 1,
      made: DUE,
      reportLink: '',
      home: '',
      told: new Map(),
      next: DUE + DAY + HOUR,
      place: { locale: 'en-GB', zone: 'Europe/London' },
    });
    await pool.query('INSERT INTO plain VALUES ($1, $2)', [html, text]);
  }
}

/** Sends the mails that wait, with the library alone. */
async function barely({ mailer }: Services['post'], pool: Pool): Promise<void> {
  const { rows } = await pool.query<{ id: string; subject: string; html: string; plain: string }>(
    `SELECT message_id AS id, subject, html, plain FROM delivery WHERE state = 'queued'`,
  );
  for (const { id, subject, html, plain } of rows) {
    const to = { name: 'Inés', address: 'ines@heatherlow.example' };
    const mail: OutgoingMail = {
      messageId: id,
      to,
      subject,
      html,
      text: plain,
      leave: null,
      thread: [],
      files: [],
      list: null,
      sentAgain: false,
    };
    if (!(await mailer.send(mail)).ok) throw new Error('a mail was not taken');
  }
}
