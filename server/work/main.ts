import { setTimeout as sleep } from 'node:timers/promises';
import { backOff, SECOND } from '#core/when/interval';
import { steadyClock } from '../clock';
import { readConfig } from '../config';
import { isOutage } from '../db/base/outage';
import { makeLog } from '../log';
import { endWith, surviveAll, watchLoop } from '../loop';
import { openServices, retentionOf, type Services } from './services';
import { Worker } from './worker';

const MAILS_AT_ONCE = 4;
const FIRST_WAIT_MS = 200;
const LONGEST_WAIT_MS = 5 * SECOND;

const config = readConfig(process.env);
const log = makeLog('worker', config.logLevel);
surviveAll(log);
watchLoop(log);
endWith(config.startedBy);

const options = {
  runsAtOnce: config.runsAtOnce,
  rendersAtOnce: config.rendersAtOnce,
  mailsAtOnce: MAILS_AT_ONCE,
  looksAtOnce: config.rendersAtOnce,
  pollMs: config.pollMs,
  leaseMs: config.leaseMs,
  retention: retentionOf(config),
};

async function begin(): Promise<{ services: Services; worker: Worker }> {
  const services = await openServices(config, steadyClock());
  const worker = new Worker(services.pipeline, services.post, services.looking, options);
  try {
    await worker.start();
    return { services, worker };
  } catch (error) {
    await Promise.allSettled([worker.stop()]);
    await Promise.allSettled([services.close()]);
    throw error;
  }
}

/**
 * After a power cut the database may be back later than the worker, which waits for it; whatever else is wrong it says,
 * and goes.
 */
async function beginWhenReached(): Promise<{ services: Services; worker: Worker }> {
  for (let tries = 1; ; tries += 1) {
    try {
      return await begin();
    } catch (error) {
      if (!isOutage(error)) {
        log.fatal({ err: error }, 'the worker cannot start');
        process.exit(1);
      }
      log.warn({ err: error, tries }, 'the database is away: the worker waits for it');
      await sleep(backOff(tries, FIRST_WAIT_MS, LONGEST_WAIT_MS));
    }
  }
}

const { services, worker } = await beginWhenReached();

/** Goes in good order; where that cannot be, as when the database is away, it goes all the same. */
const stop = async () => {
  try {
    await worker.stop();
    await services.close();
  } catch (error) {
    log.error({ err: error }, 'the worker did not stop in good order');
  }
  process.exit(0);
};
process.once('SIGTERM', () => void stop());
process.once('SIGINT', () => void stop());
