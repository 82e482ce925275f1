import { monitorEventLoopDelay } from 'node:perf_hooks';
import { SECOND } from '#core/when/interval';
import type { Log } from './log';

const EVERY_MS = 10 * SECOND;
/** Shorter ones nobody notices. */
const NOTED_MS = 50;
const WORRYING_MS = SECOND;

/**
 * Measures how long this process's event loop stands still, and logs the longest of each ten seconds that was
 * noticeable.
 */
export function watchLoop(log: Log): void {
  const delay = monitorEventLoopDelay({ resolution: 10 });
  delay.enable();
  setInterval(() => {
    const longest = Math.round(delay.max / 1e6);
    const memory = Math.round(process.memoryUsage().rss / 1e6);
    delay.reset();
    const level = longest >= WORRYING_MS ? 'warn' : longest >= NOTED_MS ? 'info' : 'debug';
    log[level]({ loopMs: longest, memoryMb: memory }, 'the loop stood still');
  }, EVERY_MS).unref();
}

const LOOKED_EVERY_MS = 2 * SECOND;

/** Ends this process in good order once the one that started it is gone, as when that was killed. */
export function endWith(startedBy: number | null): void {
  if (startedBy === null) return;
  const look = () => {
    if (process.ppid !== startedBy) process.kill(process.pid, 'SIGTERM');
  };
  setInterval(look, LOOKED_EVERY_MS).unref();
}

/**
 * The last resort: what nobody caught is logged, and the process goes on. Whatever it was part of has its own deadline;
 * to end the process would cost everybody else's work too.
 */
export function surviveAll(log: Log): void {
  process.on('uncaughtException', (error) => log.error({ err: error }, 'nobody caught this'));
  process.on('unhandledRejection', (error) => log.error({ err: error }, 'nobody caught this rejection'));
}
