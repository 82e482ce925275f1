import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/**
 * Takes a folder for one running program: false where another has it that still runs. What a program left behind that
 * was killed counts for nothing.
 */
export function takeFolder(
  folder: string,
  program: string,
): { taken: true; leave: () => void } | { taken: false; pid: number } {
  const file = join(folder, 'pid');
  const pid = existsSync(file) ? Number(readFileSync(file, 'utf8')) : 0;
  if (pid > 0 && pid !== process.pid && runs(pid, program)) return { taken: false, pid };
  writeFileSync(file, String(process.pid));
  return { taken: true, leave: () => rmSync(file, { force: true }) };
}

function runs(pid: number, program: string): boolean {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(program);
  } catch {
    return false;
  }
}
