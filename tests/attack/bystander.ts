import { fork } from 'node:child_process';
import { join } from 'node:path';

/**
 * A process that nothing is sent to, beside those that are attacked: how long it stands still, the machine made
 * everybody stand still.
 */
export interface Bystander {
  /** The longest that it stood still since it was asked last, in milliseconds. */
  stoodStill: () => Promise<number>;
  leave: () => void;
}

/**
 * Starts a process that does a little all the time, writes it down into a folder, and measures how late it comes to do
 * so.
 */
export function startBystander(folder: string): Bystander {
  const child = fork(join(import.meta.dirname, 'bystander-process.mjs'), [join(folder, 'bystander.log')], {
    execArgv: [],
  });
  const stoodStill = () =>
    new Promise<number>((resolve, reject) => {
      child.once('message', (longest) => resolve(Number(longest)));
      child.send('how long?', (error) => (error === null ? undefined : reject(error)));
    });
  return { stoodStill, leave: () => child.disconnect() };
}
