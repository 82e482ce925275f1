import { readConfig } from '#server/config';
import { openServices, retentionOf } from '#server/work/services';
import { Worker } from '#server/work/worker';

// A worker like any other that stands still for ever at one step, and says so: to be killed there.
const [haltAt] = process.argv.slice(2);
const config = readConfig(process.env);
const services = await openServices(config, () => Date.now());

let halted = false;
const onStep = async (step: string): Promise<void> => {
  if (step !== haltAt && !halted) return;
  // What else the worker is at stands still with it: a mail that is begun meanwhile would be told of as sent again.
  halted = true;
  if (step === haltAt) process.stdout.write(`halted at ${step}\n`);
  await new Promise(() => undefined);
};

const worker = new Worker({ ...services.pipeline, onStep }, { ...services.post, onStep }, services.looking, {
  runsAtOnce: 2,
  rendersAtOnce: 1,
  mailsAtOnce: 1,
  looksAtOnce: 1,
  pollMs: 50,
  leaseMs: config.leaseMs,
  retention: retentionOf(config),
});
await worker.start();
