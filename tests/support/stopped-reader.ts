import { pageDefinition } from '#core/read/definition';
import { bodyOf } from '#server/reading/pool';
import { openThreads } from './reading';

// A process that reads a page with a deadline of a second, says when it has begun, and then what it read. Whoever runs
// it stops it meanwhile, as a machine does that sleeps or has other work.

const DEADLINE_MS = 1_000;
const page = (rows: number) =>
  `<html><body><h1>Smoker</h1><b class="price">£24.00</b>${'<div><span>1</span></div>'.repeat(rows)}`;
const definition = pageDefinition('Smoker', [
  {
    key: 'price',
    label: 'price',
    type: { kind: 'money', currency: null },
    mode: 'stepwise',
    polarity: 'neither',
    locale: null,
    locators: [{ way: 'css', selector: '.price' }],
  },
]);

const pool = openThreads(DEADLINE_MS);
const read = (text: string) =>
  pool.run('read', { body: { key: bodyOf(text).key, receivedAt: 0 }, definition, address: null, latest: [] }, [
    bodyOf(text),
  ]);

await read(page(1));
const reading = read(page(5_000));
process.stdout.write('begun\n');
const done = await reading;
process.stdout.write(done.ok ? JSON.stringify(done.value.reading) : `given up: ${done.error.reason}`);
await pool.close();
