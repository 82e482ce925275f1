import { readConfig } from '../config';
import { surviveAll, watchLoop } from '../loop';
import { openServices, retentionOf } from './services';
import { Worker } from './worker';

const MAILS_AT_ONCE = 4;

const config = readConfig(process.env);
const services = await openServices(config, () => Date.now());
const worker = new Worker(services.pipeline, services.post, services.looking, {
  runsAtOnce: config.runsAtOnce,
  rendersAtOnce: config.rendersAtOnce,
  mailsAtOnce: MAILS_AT_ONCE,
  looksAtOnce: config.rendersAtOnce,
  pollMs: config.pollMs,
  leaseMs: config.leaseMs,
  retention: retentionOf(config),
});
surviveAll(services.pipeline.log);
watchLoop(services.pipeline.log);
try {
  await worker.start();
} catch (error) {
  services.pipeline.log.fatal({ err: error }, 'the worker cannot start');
  process.exit(1);
}

/** Goes in good order; where that cannot be, as when the database is away, it goes all the same. */
const stop = async () => {
  try {
    await worker.stop();
    await services.close();
  } catch (error) {
    services.pipeline.log.error({ err: error }, 'the worker did not stop in good order');
  }
  process.exit(0);
};
process.once('SIGTERM', () => void stop());
process.once('SIGINT', () => void stop());
