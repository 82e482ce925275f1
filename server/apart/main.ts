import { setTimeout as sleep } from 'node:timers/promises';
import { SECOND } from '#core/when/interval';
import { readConfig } from '../config';
import { listOwners } from '../db/access/accounts';
import { openPool } from '../db/base/pool';
import { readPulse, type Pulse } from '../db/base/workers';
import { findPerson, type Person } from '../db/person/people';
import { makeLog } from '../log';
import { endWith, surviveAll } from '../loop';
import { openMailer } from '../work/services';
import { goOn, mailOf, troubleOf, WELL, type Told, type Watch } from './trouble';

// Stands apart from worker, web and database, watches them, and mails those who own this Shrike when nobody hears of
// anything. What it needs for that it keeps in mind, for then the database may be away.

const LOOKS_EVERY = 5 * SECOND;
const ANSWERS_WITHIN = 20 * SECOND;

const config = readConfig(process.env);
const log = makeLog('apart', config.logLevel);
surviveAll(log);
endWith(config.startedBy);
const pool = openPool(config.databaseUrl, 1, (error) => log.warn({ err: error }, 'the connection was lost'));
const mailer = openMailer(config);

let owners: Person[] = [];
let watch: Watch = WELL;

/** How things stand; null where the database does not answer in time. */
async function look(): Promise<Pulse | null> {
  try {
    const late = sleep(ANSWERS_WITHIN, null, { ref: false });
    const seen = Promise.all([readPulse(pool, Date.now()), whoOwns()]);
    seen.catch(() => undefined);
    const answer = await Promise.race([seen, late]);
    if (answer === null) return null;
    owners = answer[1];
    return answer[0];
  } catch (error) {
    log.warn({ err: error }, 'the database does not answer');
    return null;
  }
}

async function whoOwns(): Promise<Person[]> {
  if (config.signInAs === null) return listOwners(pool);
  const said = await findPerson(pool, config.signInAs);
  return said === null ? [] : [said];
}

/** Mails it to every owner; true where a server took one of them. */
async function mail(told: Told): Promise<boolean> {
  const now = Date.now();
  const sent = await Promise.all(
    owners.map(async (person) => {
      const taken = await mailer.send({
        messageId: `<apart.${told.since}.${told.kind}.${now}.${person.id}@${config.mailDomain}>`,
        to: { name: person.name, address: person.email },
        ...mailOf(told, person, config.publicUrl, now),
        html: null,
        leave: null,
        thread: [],
        files: [],
        list: null,
        sentAgain: false,
      });
      if (!taken.ok) log.warn({ problem: taken.error }, 'an owner could not be told');
      return taken.ok;
    }),
  );
  return sent.includes(true);
}

async function once(): Promise<void> {
  const seen = troubleOf(await look());
  const { watch: next, tell } = goOn(watch, seen, Date.now(), config.apartAfterMs);
  if (seen !== null && (watch.state === 'well' || watch.what !== seen)) log.error({ trouble: seen }, 'nobody hears');
  if (seen === null && watch.state === 'trouble') log.info('all is well again');
  const taken = tell !== null && (await mail(tell));
  // What no server takes is told at the next look; that it is over, too.
  if (tell?.kind === 'over' && !taken) return;
  watch = taken && next.state === 'trouble' ? { ...next, toldAt: Date.now() } : next;
}

const stopping = new AbortController();
const stop = () => stopping.abort();
process.once('SIGTERM', stop);
process.once('SIGINT', stop);

log.info({ after: config.apartAfterMs }, 'watching');
while (!stopping.signal.aborted) {
  await once().catch((error: unknown) => log.error({ err: error }, 'a look failed'));
  await sleep(LOOKS_EVERY, undefined, { signal: stopping.signal }).catch(() => undefined);
}
mailer.close();
await Promise.race([pool.end(), sleep(SECOND)]);
process.exit(0);
