import { readlinkSync } from 'node:fs';
import { parentPort } from 'node:worker_threads';
import type { Body } from '#core/read/body';
import { OPENING, TASKS, type Bodies, type BodyAsked, type TaskName, type TextBody } from './tasks';

// A thread of the pool: does the steps of one job after another, and says after each how it came out. It holds on to
// the bodies it had last, opened, so that what is asked of one again and again is parsed once.

/** A job as a thread is given it. `bodies` are those that it does not hold yet. */
export interface ThreadJob {
  bodies: TextBody[];
  steps: { task: TaskName; asked: unknown }[];
  /** Whether the bodies are held on to when the job is done. */
  hold: boolean;
}

/**
 * What a thread says: first which it is of the system's threads, then how a step came out, and in the end which bodies
 * it holds.
 */
export type ThreadSaid =
  { tid: string | null } | { step: number; done: unknown } | { step: number; threw: string } | { held: string[] };

const MOST_HELD = 8;
const MOST_CHARACTERS = 12_000_000;

interface Held {
  text: string;
  made: Map<string, unknown>;
}

const held = new Map<string, Held>();

function entry(key: string): Held {
  const found = held.get(key);
  if (found === undefined) throw new Error('the body was not handed over');
  return found;
}

function once<T>({ key, receivedAt }: BodyAsked, what: string, work: () => T): T {
  const { made, text } = entry(key);
  // Times relative to when it came stand in JSON alone.
  const name = /^\s*[[{]/.test(text) ? `${what} ${receivedAt}` : what;
  if (!made.has(name)) made.set(name, work());
  return made.get(name) as T;
}

const bodies: Bodies = {
  text: (key) => entry(key).text,
  once,
  any: (body) => once(body, 'any', () => OPENING.any(entry(body.key).text, body.receivedAt)),
  as: (body, format: Body['format']) =>
    once(body, format, () => OPENING.as(entry(body.key).text, format, body.receivedAt)),
};

/** Lets go of the oldest bodies until the rest are few and small enough. */
function letGo(): void {
  const size = () => [...held.values()].reduce((sum, { text }) => sum + text.length, 0);
  while (held.size > MOST_HELD || (held.size > 1 && size() > MOST_CHARACTERS)) held.delete([...held.keys()][0] ?? '');
}

parentPort?.on('message', ({ bodies: given, steps, hold }: ThreadJob) => {
  for (const { key, text } of given) held.set(key, { text, made: new Map() });
  for (const [step, { task, asked }] of steps.entries()) {
    try {
      const work = TASKS[task] as (bodies: Bodies, asked: unknown) => unknown;
      say({ step, done: work(bodies, asked) });
    } catch (error) {
      say({ step, threw: error instanceof Error ? (error.stack ?? error.message) : String(error) });
    }
  }
  if (hold) letGo();
  else held.clear();
  say({ held: [...held.keys()] });
});

function say(said: ThreadSaid): void {
  parentPort?.postMessage(said);
}

/** The system's number of this thread (proc(5)), by which whoever waits sees how long it has worked. */
function ownTid(): string | null {
  try {
    return readlinkSync('/proc/thread-self').split('/').pop() ?? null;
  } catch {
    return null;
  }
}

say({ tid: ownTid() });
