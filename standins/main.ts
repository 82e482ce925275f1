import { startStandins } from './server';

const [port, smtpPort, folder, shrike, still] = process.argv.slice(2);
if (port === undefined || smtpPort === undefined || folder === undefined)
  throw new Error('usage: standins/main.ts PORT SMTP-PORT FOLDER [SHRIKE [STILL-AT]]');

const standins = await startStandins({
  port: Number(port),
  smtpPort: Number(smtpPort),
  folder,
  clock: () => Date.now(),
  shrike,
  ...(still === undefined ? {} : { nature: () => Number(still) }),
});
const stop = () => void standins.close().then(() => process.exit(0));
process.once('SIGTERM', stop);
process.once('SIGINT', stop);
