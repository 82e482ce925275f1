import { Session } from 'node:inspector/promises';
import { writeFileSync } from 'node:fs';
import { chances, mutate } from './mutate';
import { TARGETS } from './targets';

// Throws texts at one border for as long as it is told, and keeps those that reach code which none before them did.
// What it is about to throw stands in a file, so that whoever watches it knows what it never came back from.

const [name, milliseconds, seedText, currentFile, keptFile] = process.argv.slice(2);
const target = TARGETS.find((each) => each.name === name);
if (target === undefined || currentFile === undefined || keptFile === undefined) throw new Error('no such target');

const AT_ONCE = 40;
const MOST_KEPT = 400;
const ours = /\/(core|server)\/.*\.ts$/;

const session = new Session();
session.connect();
await session.post('Profiler.enable');
await session.post('Profiler.startPreciseCoverage', { callCount: true, detailed: true });

const reached = new Set<string>();

/** How many places of our code were reached that never were before. */
async function newlyReached(): Promise<number> {
  const before = reached.size;
  const { result } = await session.post('Profiler.takePreciseCoverage');
  const places = result
    .filter(({ url }) => ours.test(url))
    .flatMap(({ url, functions }) =>
      functions.flatMap(({ ranges }) =>
        ranges.filter(({ count }) => count > 0).map((range) => `${url} ${range.startOffset} ${range.endOffset}`),
      ),
    );
  for (const place of places) reached.add(place);
  return reached.size - before;
}

const chance = chances(Number(seedText));
const kept = [...target.seeds];
let tried = 0;

async function throwAt(text: string): Promise<void> {
  writeFileSync(currentFile as string, text);
  tried += 1;
  try {
    await target?.try(text);
  } catch (error) {
    // Whoever watches it makes a seed of it.
    process.send?.({ found: text, because: error instanceof Error ? (error.stack ?? error.message) : String(error) });
  }
}

process.on('unhandledRejection', (error) => process.send?.({ found: '', because: `nobody caught ${String(error)}` }));
for (const seed of target.seeds) await throwAt(seed);
await newlyReached();
const end = Date.now() + Number(milliseconds);
while (Date.now() < end) {
  const thrown: string[] = [];
  for (let each = 0; each < AT_ONCE && Date.now() < end; each += 1) {
    const text = mutate(kept[chance(kept.length)] ?? '', kept[chance(kept.length)] ?? '', target.words, chance);
    thrown.push(text);
    await throwAt(text);
  }
  if ((await newlyReached()) === 0) continue;
  kept.push(...thrown.slice(0, 8));
  if (kept.length > MOST_KEPT) kept.splice(target.seeds.length, kept.length - MOST_KEPT);
}
writeFileSync(keptFile, JSON.stringify(kept));
process.send?.({ tried, reached: reached.size });
process.exit(0);
