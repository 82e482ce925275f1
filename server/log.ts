import { pino, type Logger } from 'pino';

export type Log = Logger;

/** A structured log, one JSON line an event, to standard output. */
export function makeLog(part: string, level: string): Log {
  return pino({ level, base: { part }, timestamp: pino.stdTimeFunctions.isoTime });
}
