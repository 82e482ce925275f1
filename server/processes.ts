import { readdirSync, readFileSync } from 'node:fs';

/** Every process below another, by its id, as this system's /proc tells; none where there is no such thing. */
export function processesBelow(pid: number): number[] {
  const parents = new Map(allProcesses().map((each) => [each, parentOf(each)]));
  const isBelow = (each: number): boolean => {
    for (let at = parents.get(each); at !== undefined && at !== 0; at = parents.get(at)) if (at === pid) return true;
    return false;
  };
  return [...parents.keys()].filter(isBelow);
}

const PAGE_BYTES = 4096;

/**
 * The memory that processes hold of their own, in bytes: what is resident and not shared. Cheap to ask, however much
 * they hold.
 */
export function memoryOf(pids: number[]): number {
  return pids.reduce((sum, pid) => {
    const [, resident = 0, shared = 0] = read(`/proc/${pid}/statm`).split(' ').map(Number);
    return sum + Math.max(0, resident - shared) * PAGE_BYTES;
  }, 0);
}

/** Ends processes at once, and those below each. */
export function endAll(pids: number[]): void {
  for (const pid of pids) {
    try {
      process.kill(pid, 'SIGKILL');
    } catch {
      // It has ended by itself.
    }
  }
}

function allProcesses(): number[] {
  try {
    return readdirSync('/proc').flatMap((name) => (/^\d+$/.test(name) ? [Number(name)] : []));
  } catch {
    return [];
  }
}

function parentOf(pid: number): number {
  return Number(/^PPid:\s*(\d+)/m.exec(read(`/proc/${pid}/status`))?.[1] ?? 0);
}

function read(file: string): string {
  try {
    return readFileSync(file, 'utf8');
  } catch {
    return '';
  }
}
