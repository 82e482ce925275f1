import type { FromProcess, Questions, Taken, ToProcess } from './messages';
import { PageTaker } from './page-taker';

// The process that a browser and its driver run in, one page after another. A worker starts it and holds everything
// that matters; whatever a page does to the browser, the driver or this process ends here.

const waiting = new Map<number, { resolve: (value: unknown) => void; reject: (error: Error) => void }>();
let asked = 0;
let taker: PageTaker | null = null;

function ask<Name extends keyof Questions>(question: Name): Questions[Name] {
  return ((...given: unknown[]) =>
    new Promise((resolve, reject) => {
      asked += 1;
      waiting.set(asked, { resolve, reject });
      say({ ask: asked, question, given });
    })) as Questions[Name];
}

const worker: Questions = { check: ask('check'), open: ask('open'), trusted: ask('trusted'), guard: ask('guard') };

function say(message: FromProcess): void {
  process.send?.(message);
}

async function take({ take: id, what, request, limits }: Extract<ToProcess, { take: number }>): Promise<void> {
  taker ??= new PageTaker(limits, worker);
  const by: Taken =
    what === 'render' ? { what, result: await taker.render(request) } : { what, result: await taker.trySteps(request) };
  say({ taken: id, by, refused: await taker.refused() });
}

function hear(message: ToProcess): void {
  if ('take' in message) void take(message).catch(fall);
  else if ('close' in message) void leave();
  else {
    const question = waiting.get(message.answer);
    waiting.delete(message.answer);
    if ('failed' in message) question?.reject(new Error(message.failed));
    else question?.resolve(message.value);
  }
}

/** What nobody foresaw costs this process, and so the page it was for; the next one has a process of its own. */
function fall(error: unknown): void {
  process.stderr.write(`${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
  process.exit(1);
}

async function leave(): Promise<void> {
  await taker?.close();
  process.exit(0);
}

process.on('message', hear);
process.on('disconnect', () => void leave());
process.on('uncaughtException', fall);
process.on('unhandledRejection', fall);
