import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { anyPort } from '#scripts/system/ports';
import { servePages } from './pages';

// The pages of the benchmark, served by a process of their own; `changing` and `still` on standard input switch them.
const server = await servePages(mkdtempSync(join(tmpdir(), 'shrike-bench-')), await anyPort(), await anyPort());
process.stdin.on('data', (words: Buffer) => {
  server.changing = words.toString().includes('changing');
  process.stdout.write('switched\n');
});
process.stdout.write(`port ${server.port}\n`);
