import type { AlertId, ChangeId, DeliveryId, EditionId, PersonId, ReportId, RuleId, WatchId } from '#core/id';
import { readReason, type Reason } from '#core/judge/reason';
import type { Weight } from '#core/judge/rule';
import type { DeliveryState } from '#core/tell/delivery';
import { heldBy } from '#core/tell/hold';
import { storedNews, type News } from '#core/tell/news';
import { CHANNEL, CHANNELS, type Channel } from '#core/tell/channels';
import type { FileForm } from '#core/tell/definition';
import type { Instant } from '#core/when/interval';
import type { QuietHours } from '#core/when/quiet';
import type { MailFile, OutgoingMail } from '../../deliver/mail';
import { fileName, FILE_TYPES } from '../../files/edition-files';
import { mailQuotaUsedUntil, ONE_BY_ONE } from './quotas';
import { CANCELLED } from './cancelled';
import { instant, moment, theRow, type Db } from '../base/pool';

/** An attempt that was recorded before it is made. */
export interface BegunAttempt {
  deliveryId: DeliveryId;
  attempt: number;
  sentAgain: boolean;
  /** How many attempts before it have an outcome that nobody knows. */
  unknowns: number;
  /** She would rather lose it than have it twice. */
  ratherLose: boolean;
  orderedAt: Instant;
  person: PersonId;
  purpose: DeliveryRow['purpose'];
  channel: Channel;
  mail: Omit<OutgoingMail, 'sentAgain'>;
}

/** How an attempt ended. */
export interface AttemptEnd {
  state: 'sent' | 'queued' | 'refused' | 'given up';
  outcome: 'accepted' | 'refused' | 'no answer' | 'unknown';
  response: string;
  nextAttemptAt: Instant | null;
  /** Why it is given up, where that is not in the response alone. */
  reason?: 'unknown outcome';
}

interface DeliveryRow {
  state: string;
  attempts: number;
  orderedAt: Instant;
  messageId: string;
  name: string;
  address: string;
  subject: string;
  /** Null of what is posted. */
  html: string | null;
  plain: string;
  channel: Channel;
  beside: DeliveryId | null;
  /** Where its channel leads now; null where that was taken off. */
  leads: string | null;
  /** When what is to be posted there before it is tried again; null where nothing is. */
  behind: Instant | null;
  sentAgain: boolean;
  /** How many attempts there were whose outcome nobody knows, one that has not ended among them. */
  unknowns: number;
  ratherLose: boolean;
  attemptUntil: Instant | null;
  nextAttemptAt: Instant | null;
  person: PersonId;
  purpose: 'edition' | 'confirmation' | 'invitation' | 'warning';
  reached: boolean;
  /** Why it is not to be sent any more, as it is stored. */
  cancelled: string | null;
  atOnce: boolean;
  weight: Weight | null;
  leave: string | null;
  report: ReportId | null;
  reportName: string | null;
  zone: string;
  quiet: QuietHours | null;
  mailHour: number | null;
  passes: Weight | null;
}

/**
 * What a job finds: an attempt that it may make, when to come again, that it was cancelled meanwhile, or that there is
 * nothing to send.
 */
export type Begun = { attempt: BegunAttempt } | { notBefore: Instant } | { cancelled: true } | null;

/** Where a person can be reached by each channel. */
const LEADS = CHANNELS.map((channel) => `WHEN '${channel}' THEN q.${CHANNEL[channel].column}`).join(' ');
const IN_ORDER = `'{${CHANNELS.filter((channel) => CHANNEL[channel].inOrder).join(',')}}'`;

const BEGIN = `
SELECT d.state, d.attempts, d.ordered_at AS "orderedAt", d.message_id AS "messageId", q.name, d.address, d.subject,
  d.html, d.plain,
  d.sent_again AS "sentAgain", d.attempt_until AS "attemptUntil", d.next_attempt_at AS "nextAttemptAt",
  q.id AS person, d.purpose, d.at_once AS "atOnce", d.weight, d.leave, q.zone, q.quiet, q.mail_hour AS "mailHour",
    q.passes,
  q.confirmed_at IS NOT NULL AND (q.paused_at IS NULL OR d.channel <> 'mail') AS reached, ${CANCELLED} AS cancelled,
    d.channel, d.beside, q.rather_lose AS "ratherLose",
  (SELECT count(*)::int FROM delivery_attempt t
  WHERE t.delivery_id = d.id AND coalesce(t.outcome, 'unknown') = 'unknown') AS unknowns,
  CASE d.channel ${LEADS} END AS leads, r.id AS report, r.name AS "reportName",
  CASE WHEN d.channel = ANY(${IN_ORDER}) THEN (
    SELECT max(coalesce(b.next_attempt_at, b.held_until, b.ordered_at)) FROM delivery b
    WHERE b.channel = d.channel AND b.address = d.address AND (b.ordered_at, b.id) < (d.ordered_at, d.id)
      AND b.state NOT IN ('sent', 'given up')) END AS behind
FROM delivery d JOIN person q ON q.id = d.person_id LEFT JOIN report r ON r.id = d.report_id WHERE d.id = $1
FOR UPDATE OF d`;

const listOf = ({ report, reportName }: Pick<DeliveryRow, 'report' | 'reportName'>): OutgoingMail['list'] =>
  report === null || reportName === null ? null : { report, name: reportName };

const MOST_OF_THREAD = 20;

/**
 * What was sent to this reader about the one episode that a delivery tells of, and about no other; through whatever
 * report.
 */
const THREAD = `
WITH told AS (
  SELECT min(a.episode_id) AS episode FROM notification t JOIN alert a ON a.id = t.alert_id
  WHERE t.delivery_id = $1 HAVING count(DISTINCT a.episode_id) = 1 AND count(*) = count(a.episode_id)
)
SELECT d.message_id AS id FROM told
JOIN alert a ON a.episode_id = told.episode JOIN notification t ON t.alert_id = a.id
JOIN delivery d ON d.id = t.delivery_id
WHERE d.person_id = $2 AND d.state = 'sent' AND d.sent_at <= $3 AND d.at_once AND d.channel = 'mail' AND d.id <> $1
  AND NOT EXISTS (
  SELECT FROM notification o JOIN alert b ON b.id = o.alert_id WHERE o.delivery_id = d.id AND b.episode_id
  IS DISTINCT FROM told.episode)
GROUP BY d.id ORDER BY d.sent_at DESC, d.id DESC LIMIT ${MOST_OF_THREAD}`;

async function threadOf(
  db: Db,
  id: DeliveryId,
  { atOnce, channel, person }: Pick<DeliveryRow, 'atOnce' | 'channel' | 'person'>,
  until: Instant,
): Promise<string[]> {
  if (!atOnce || !CHANNEL[channel].isLetter) return [];
  return (await db.query<{ id: string }>(THREAD, [id, person, moment(until)])).rows.map((row) => row.id).reverse();
}

const FILES = `
SELECT f.form, f.body, e.number, r.name AS report FROM delivery_edition x
JOIN edition_file f ON f.edition_id = x.edition_id JOIN edition e ON e.id = x.edition_id
JOIN report r ON r.id = e.report_id
WHERE x.delivery_id = $1 AND (SELECT count(*) FROM delivery_edition o WHERE o.delivery_id = $1) = 1 ORDER BY f.form`;

/** The files that a mail bears: those of its edition; one of several editions bears none. */
async function filesOf(db: Db, id: DeliveryId, { channel }: Pick<DeliveryRow, 'channel'>): Promise<MailFile[]> {
  if (!CHANNEL[channel].isLetter) return [];
  const { rows } = await db.query<{ form: FileForm; body: Buffer; number: number; report: string }>(FILES, [id]);
  return rows.map(({ form, body, number, report }) => ({
    name: `${fileName(report)}-${number}.${form}`,
    type: FILE_TYPES[form],
    body,
  }));
}

const HELD = `UPDATE delivery
  SET state = 'kept back', reason = $2, held_until = $3, next_attempt_at = NULL, attempt_until = NULL
  WHERE id = $1`;

const CANCEL = `UPDATE delivery SET state = 'given up', reason = $2, next_attempt_at = NULL, attempt_until = NULL
  WHERE id = $1`;

/**
 * A text that was to be the only word of it goes as the mail that it leads to, where its number was taken off: what it
 * tells is not lost.
 */
const AS_MAIL = `UPDATE delivery d SET channel = 'mail', address = q.email
  FROM person q
  WHERE d.id = $1 AND q.id = d.person_id`;
const isTextAlone = ({ channel, beside }: Pick<DeliveryRow, 'channel' | 'beside'>): boolean =>
  channel === 'text' && beside === null;

/** What is behind another at its address is looked at again so soon. */
const BEHIND_MS = 2_000;

const UNKNOWN = `UPDATE delivery_attempt SET outcome = 'unknown' WHERE delivery_id = $1 AND outcome IS NULL`;

/** After so many attempts of which nobody knows whether they brought it a delivery is tried no more. */
const MOST_UNKNOWN = 4;

/**
 * Whether what may have come already may come once more: it is sent again so many times, and never to somebody who
 * would rather lose it. What a program takes it knows by its identity.
 */
export function maySendAgain(
  channel: Channel,
  { unknowns, ratherLose }: Pick<BegunAttempt, 'unknowns' | 'ratherLose'>,
): boolean {
  return CHANNEL[channel].isIdempotent || unknowns === 0 || (!ratherLose && unknowns < MOST_UNKNOWN);
}

const UNKNOWN_OUTCOME = 'unknown outcome';

const endOfUnknown = (row: DeliveryRow): string | null => (maySendAgain(row.channel, row) ? null : UNKNOWN_OUTCOME);

/** A mail that may go, of which nothing says that it must wait. */
const FREE = 'free';

/** What a delivery waits for instead of being sent, which is written down; `FREE` where it may go. */
async function laidBy(
  db: Db,
  id: DeliveryId,
  row: DeliveryRow,
  now: Instant,
): Promise<Exclude<Begun, { attempt: BegunAttempt }> | typeof FREE> {
  const unknown = row.state === 'sending';
  const notBefore = unknown ? row.attemptUntil : row.nextAttemptAt;
  if (notBefore !== null && notBefore > now) return { notBefore };
  if (row.cancelled === null && row.leads === null && isTextAlone(row)) {
    await db.query(AS_MAIL, [id]);
    return { notBefore: now };
  }
  const cancelled = row.cancelled ?? (row.leads === null ? 'route gone' : endOfUnknown(row));
  if (cancelled !== null) {
    await db.query(UNKNOWN, [id]);
    await db.query(CANCEL, [id, cancelled]);
    // What may have come to somebody who wants nothing twice is told her through no other report either.
    return cancelled === UNKNOWN_OUTCOME && row.ratherLose ? null : { cancelled: true };
  }
  return row.purpose !== 'edition' || unknown ? FREE : heldFor(db, id, row, now);
}

/** What holds an edition that is to go: her hours, room for mails, or what is to be posted before it. */
async function heldFor(
  db: Db,
  id: DeliveryId,
  row: DeliveryRow,
  now: Instant,
): Promise<{ notBefore: Instant } | null | typeof FREE> {
  // What is for an address that does not work any more is gathered with what is kept back.
  if (!row.reached) return null;
  const hold = heldBy(row, row, now);
  if (hold !== null) return heldBack(db, id, hold.by, hold.until);
  const spentUntil = row.channel === 'mail' ? await roomFor(db, row.person, now) : null;
  if (spentUntil !== null) return heldBack(db, id, 'allowance', spentUntil);
  return row.behind === null ? FREE : { notBefore: Math.max(row.behind, now + BEHIND_MS) };
}

async function heldBack(db: Db, id: DeliveryId, by: string, until: Instant): Promise<null> {
  await db.query(HELD, [id, by, moment(until)]);
  return null;
}

/**
 * When there is room for a mail to somebody, where there is none now: one is decided on after another, so that none is
 * one too many.
 */
async function roomFor(db: Db, person: PersonId, now: Instant): Promise<Instant | null> {
  const { rowCount } = await db.query(ONE_BY_ONE);
  return rowCount === 0 ? null : mailQuotaUsedUntil(db, person, now, 'sent');
}

/**
 * Records that an attempt begins. It is a lease: nobody else may try until it has run out, and then its outcome is
 * unknown. Nothing is to be sent of what was sent, kept back or given up.
 */
export async function beginAttempt(db: Db, deliveryId: DeliveryId, now: Instant, leaseMs: number): Promise<Begun> {
  const { rows } = await db.query<DeliveryRow>(BEGIN, [deliveryId]);
  const [row] = rows;
  if (row === undefined || !['queued', 'refused', 'sending'].includes(row.state)) return null;
  const laid = await laidBy(db, deliveryId, row, now);
  if (laid !== FREE) return laid;
  const unknown = row.state === 'sending';
  const attempt = row.attempts + 1;
  if (unknown) {
    await db.query(UNKNOWN, [deliveryId]);
  }
  const sentAgain = row.sentAgain || unknown;
  // Of what may have been taken there a second copy goes nowhere else.
  const address = row.purpose === 'edition' && row.reached && !unknown ? (row.leads ?? row.address) : row.address;
  await db.query(
    `UPDATE delivery
SET state = 'sending', attempts = $2, sent_again = $3, next_attempt_at = NULL, attempt_until = $4, address = $5
      WHERE id = $1`,
    [deliveryId, attempt, sentAgain, moment(now + leaseMs), address],
  );
  await db.query('INSERT INTO delivery_attempt (delivery_id, attempt, started_at) VALUES ($1, $2, $3)', [
    deliveryId,
    attempt,
    moment(now),
  ]);
  const to = { name: row.name, address };
  const mail = {
    messageId: row.messageId,
    to,
    subject: row.subject,
    html: row.html,
    text: row.plain,
    leave: row.leave,
    list: listOf(row),
    thread: await threadOf(db, deliveryId, row, now),
    files: await filesOf(db, deliveryId, row),
  };
  return {
    attempt: {
      deliveryId,
      attempt,
      sentAgain,
      unknowns: row.unknowns,
      ratherLose: row.ratherLose,
      orderedAt: row.orderedAt,
      person: row.person,
      purpose: row.purpose,
      channel: row.channel,
      mail,
    },
  };
}

/**
 * Records how an attempt ended, with the server's own words. False where the delivery has gone on without it: whoever
 * comes late changes nothing, but for one thing: a mail that was accepted after all is not tried again.
 */
export async function endAttempt(db: Db, begun: BegunAttempt, end: AttemptEnd, now: Instant): Promise<boolean> {
  const { deliveryId, attempt } = begun;
  const next = end.nextAttemptAt === null ? null : moment(end.nextAttemptAt);
  await db.query(
    `UPDATE delivery_attempt SET ended_at = $3, outcome = $4, response = $5
      WHERE delivery_id = $1 AND attempt = $2 AND ended_at IS NULL`,
    [deliveryId, attempt, moment(now), end.outcome, end.response],
  );
  const { rowCount } = await db.query(
    `UPDATE delivery
      SET state = $2, response = $3, next_attempt_at = $4, attempt_until = NULL, sent_again = sent_again OR $7,
       reason = coalesce($8, reason),
       sent_at = CASE WHEN $2 = 'sent' THEN $5::timestamptz END
     WHERE id = $1 AND ((state = 'sending' AND attempts = $6) OR ($2 = 'sent' AND state IN ('queued', 'refused')))`,
    [deliveryId, end.state, end.response, next, moment(now), attempt, end.outcome === 'unknown', end.reason ?? null],
  );
  return rowCount === 1;
}

const PAUSED = `UPDATE person SET paused_at = $3, paused_because = $4
  WHERE id = $1 AND email = $2 AND paused_at IS NULL`;

/** Pauses an address that refused mail for good: what is for it is kept back until somebody sees to it. */
export async function pauseAddress(
  db: Db,
  person: PersonId,
  address: string,
  words: string,
  now: Instant,
): Promise<boolean> {
  return (await db.query(PAUSED, [person, address, moment(now), words])).rowCount === 1;
}

const MOST_RELEASED = 100;

/** Of each reader and report the first that was held, once those before it have been tried. */
const RELEASED = `
WITH first AS (
  SELECT DISTINCT ON (d.report_id, d.person_id) d.id FROM delivery d
  WHERE d.state = 'kept back' AND d.held_until <= $1 AND NOT EXISTS (
    SELECT FROM delivery b WHERE b.report_id = d.report_id AND b.person_id = d.person_id AND b.number < d.number
      AND (b.state = 'sending' OR (b.state = 'queued' AND b.attempts = 0)))
  ORDER BY d.report_id, d.person_id, d.number
), due AS (
  SELECT d.id FROM delivery d WHERE d.id IN (SELECT id FROM first) AND d.state = 'kept back' ORDER BY d.id
  LIMIT ${MOST_RELEASED} FOR UPDATE SKIP LOCKED
)
UPDATE delivery d SET state = 'queued', reason = NULL, held_until = NULL, next_attempt_at = NULL FROM due
WHERE d.id = due.id RETURNING d.id`;

/**
 * Lets go of what was held until now; which deliveries that are. They go one after another, in the order of their
 * numbers.
 */
export async function releaseHeld(db: Db, now: Instant): Promise<DeliveryId[]> {
  return (await db.query<{ id: DeliveryId }>(RELEASED, [moment(now)])).rows.map(({ id }) => id);
}

/** One row of the outbox. */
export interface OutboxRow {
  id: DeliveryId;
  /** Null of what asks to confirm an address. */
  report: { id: ReportId; name: string } | null;
  /** Those that it covers: the first, the last and how many. */
  editions: { first: number; last: number; count: number } | null;
  /** Its number for its reader; null of what is kept back and has none yet. */
  number: number | null;
  channel: Channel;
  purpose: DeliveryRow['purpose'];
  person: string;
  personId: PersonId;
  address: string;
  /** Null of what is kept back and has no words yet. */
  subject: string | null;
  state: string;
  heldUntil: Instant | null;
  reason: string | null;
  attempts: number;
  sentAgain: boolean;
  orderedAt: Instant;
  sentAt: Instant | null;
  nextAttemptAt: Instant | null;
  response: string | null;
}

const COLUMNS = `
  d.id, CASE WHEN r.id IS NOT NULL THEN jsonb_build_object('id', r.id, 'name', r.name) END AS report, d.number,
  (SELECT jsonb_build_object('first', min(e.number), 'last', max(e.number), 'count', count(*))
    FROM delivery_edition x JOIN edition e ON e.id = x.edition_id WHERE x.delivery_id = d.id
    HAVING count(*) > 0) AS editions,
  d.channel, d.purpose, p.name AS person, p.id AS "personId", d.address, d.subject, d.state, d.reason,
    d.held_until AS "heldUntil", d.attempts,
  d.sent_again AS "sentAgain", d.ordered_at AS "orderedAt", d.sent_at AS "sentAt", d.next_attempt_at AS "nextAttemptAt",
    d.response`;

const FROM = `
FROM delivery d
LEFT JOIN report r ON r.id = d.report_id
JOIN person p ON p.id = d.person_id`;

/** Where a page of the outbox begins: after a delivery, by when it was ordered and its number. */
export interface AfterDelivery {
  orderedAt: Instant;
  id: DeliveryId;
}

/** Which deliveries are looked for. */
export interface DeliveryFilter {
  states?: readonly DeliveryState[];
  person?: PersonId;
  report?: ReportId;
  /** Ordered or sent in this stretch, its end not included. */
  day?: { from: Instant; until: Instant };
}

/**
 * The conditions of a filter, and their values: only what is asked for stands in the query, so that an index leads to
 * it.
 */
function conditionsOf(
  { states, person, report, day }: DeliveryFilter,
  after: AfterDelivery | null,
): { where: string; values: unknown[] } {
  const values: unknown[] = [];
  const asked = (value: unknown): string => `$${values.push(value) + 1}`;
  const all = [
    ...(after === null ? [] : [`(d.ordered_at, d.id) < (${asked(moment(after.orderedAt))}, ${asked(after.id)})`]),
    ...(states === undefined ? [] : [stateCondition(states)]),
    ...(person === undefined ? [] : [`d.person_id = ${asked(person)}`]),
    ...(report === undefined ? [] : [`d.report_id = ${asked(report)}`]),
    ...(day === undefined ? [] : [within(asked(moment(day.from)), asked(moment(day.until)))]),
  ];
  return { where: all.length === 0 ? '' : `WHERE ${all.join(' AND ')}`, values };
}

const within = (from: string, until: string): string =>
  `((d.ordered_at >= ${from} AND d.ordered_at < ${until}) OR (d.sent_at >= ${from} AND d.sent_at < ${until}))`;

/** States as the indexes of deliveries know them. */
const stateCondition = (states: readonly DeliveryState[]): string => {
  if (states.length === 1 && states[0] === 'sent') return "d.state = 'sent'";
  const unsent = states.includes('sent') ? '' : "d.state <> 'sent' AND ";
  return `${unsent}d.state IN (${states.map((state) => `'${state}'`).join(', ')})`;
};

/** The deliveries that a filter lets through, the latest first; or those before one. */
export async function listDeliveries(
  db: Db,
  filter: DeliveryFilter,
  limit: number,
  after: AfterDelivery | null = null,
): Promise<OutboxRow[]> {
  const { where, values } = conditionsOf(filter, after);
  const { rows } = await db.query<OutboxRow>(
    `SELECT ${COLUMNS} ${FROM} ${where} ORDER BY d.ordered_at DESC, d.id DESC LIMIT $1`,
    [limit, ...values],
  );
  return rows;
}

/** One delivery with its message and every attempt. */
export interface DeliveryDetail extends OutboxRow {
  html: string | null;
  plain: string | null;
  covers: { id: EditionId; number: number; madeAt: Instant }[];
  messageId: string;
  /**
   * What it told this reader, and why that was raised; null where no verdict was written then, as where an episode is
   * passed on.
   */
  tells: {
    alert: AlertId;
    watch: WatchId;
    rule: RuleId;
    live: boolean;
    change: ChangeId | null;
    news: News;
    reason: Reason | null;
  }[];
  /** It told more than those. */
  tellsMore: boolean;
  attemptsMade: { attempt: number; startedAt: Instant; outcome: string | null; response: string | null }[];
}

const MOST_TOLD = 100;

const COVERS = `coalesce((SELECT jsonb_agg(
  jsonb_build_object('id', e.id, 'number', e.number, 'madeAt', ${instant('e.made_at')})
  ORDER BY e.number)
  FROM delivery_edition x JOIN edition e ON e.id = x.edition_id WHERE x.delivery_id = d.id), '[]')`;

/** The alerts of a mail, each with the verdict that was written at the same moment. */
const TELLS = `
SELECT a.id AS alert, a.watch_id AS watch, a.rule_id AS rule, a.change_id AS change, a.news, v.reason,
  u.ended_at IS NULL AS live
FROM notification t
JOIN alert a ON a.id = t.alert_id
JOIN rule u ON u.id = a.rule_id
LEFT JOIN LATERAL (
  SELECT x.reason FROM verdict x WHERE x.made_at = a.seen_at AND x.rule_id = a.rule_id AND x.record_id = a.record_id
  ORDER BY x.id DESC LIMIT 1
) v ON true
WHERE t.delivery_id = $1
ORDER BY a.seen_at, a.id LIMIT $2`;

/** One delivery, whole; null when there is none. */
export async function findDelivery(db: Db, id: DeliveryId): Promise<DeliveryDetail | null> {
  const { rows } = await db.query<DeliveryDetail>(
    `SELECT ${COLUMNS}, d.html, d.plain, d.message_id AS "messageId", ${COVERS} AS covers ${FROM} WHERE d.id = $1`,
    [id],
  );
  const [row] = rows;
  if (row === undefined) return null;
  const attempts = await db.query<DeliveryDetail['attemptsMade'][number]>(
    `SELECT attempt, started_at AS "startedAt", outcome, response
      FROM delivery_attempt
      WHERE delivery_id = $1
      ORDER BY attempt`,
    [id],
  );
  const tells = await db.query<Omit<DeliveryDetail['tells'][number], 'reason'> & { reason: unknown }>(TELLS, [
    id,
    MOST_TOLD + 1,
  ]);
  return {
    ...row,
    attemptsMade: attempts.rows,
    tellsMore: tells.rows.length > MOST_TOLD,
    tells: tells.rows.slice(0, MOST_TOLD).map(({ news, reason, ...told }) => ({
      ...told,
      news: storedNews.read(news),
      reason: reason === null ? null : readReason(reason),
    })),
  };
}

const SENT = `
SELECT d.message_id AS "messageId", p.name, d.address, d.subject, d.html, d.plain, d.leave, d.sent_again AS "sentAgain",
  d.sent_at AS "sentAt",
  d.at_once AS "atOnce", p.id AS person, d.channel, r.id AS report, r.name AS "reportName"
FROM delivery d JOIN person p ON p.id = d.person_id LEFT JOIN report r ON r.id = d.report_id
WHERE d.id = $1 AND d.state = 'sent' AND d.channel = 'mail' AND d.plain IS NOT NULL`;

type SentRow = Pick<
  DeliveryRow,
  | 'messageId'
  | 'name'
  | 'address'
  | 'subject'
  | 'html'
  | 'plain'
  | 'leave'
  | 'report'
  | 'reportName'
  | 'sentAgain'
  | 'atOnce'
  | 'person'
  | 'channel'
> & {
  sentAt: Instant;
};

/** A mail as it went out, and when; null where it has not. */
export async function findSentMail(db: Db, id: DeliveryId): Promise<{ mail: OutgoingMail; sentAt: Instant } | null> {
  const [row] = (await db.query<SentRow>(SENT, [id])).rows;
  if (row === undefined) return null;
  const { messageId, name, address, subject, html, plain, leave, sentAgain, sentAt } = row;
  const thread = await threadOf(db, id, row, sentAt);
  return {
    mail: {
      messageId,
      to: { name, address },
      subject,
      html,
      text: plain,
      leave,
      list: listOf(row),
      thread,
      files: await filesOf(db, id, row),
      sentAgain,
    },
    sentAt,
  };
}

/** What a short text leads to, where it was ordered after a moment; null where there is no such text. */
export async function findByCode(
  db: Db,
  code: string,
  after: Instant,
): Promise<{ subject: string; html: string } | null> {
  const { rows } = await db.query<{ subject: string; html: string }>(
    'SELECT subject, html FROM delivery WHERE code = $1 AND ordered_at > $2 AND html IS NOT NULL',
    [code, moment(after)],
  );
  return rows[0] ?? null;
}

/** How many deliveries still wait for a server to take them. */
export async function countWaiting(db: Db): Promise<number> {
  return theRow(
    await db.query<{ n: number }>(`SELECT count(*) AS n FROM delivery WHERE state IN ('queued', 'sending', 'refused')`),
  ).n;
}

/**
 * Has a delivery that waits, was refused or was given up tried at once; what was cancelled stays so. True when there
 * was one; pressed again meanwhile, it is not.
 */
export async function requeueDelivery(db: Db, id: DeliveryId, now: Instant): Promise<boolean> {
  const { rowCount } = await db.query(
    `UPDATE delivery SET state = 'queued', next_attempt_at = $2
     WHERE id = $1
       AND (state = 'refused' OR (state = 'given up' AND reason IS NULL)
       OR (state = 'queued' AND next_attempt_at > $2))`,
    [id, moment(now)],
  );
  return rowCount === 1;
}

/** Makes every delivery that waits for its time due at once. */
export async function hurryDeliveries(db: Db): Promise<void> {
  await db.query(
    `UPDATE delivery SET next_attempt_at = NULL, attempt_until = NULL WHERE state IN ('queued', 'refused', 'sending')`,
  );
}
