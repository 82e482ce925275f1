import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { chownSync, cpSync, existsSync, mkdirSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { stopChild } from '#scripts/system/processes';
import { ROOT } from '#scripts/system/state';
import { unprivileged } from '#scripts/system/unprivileged';
import { processesBelow } from '#server/processes';
import { PATIENCE_MS, until } from './until';

/** What a clone does not bear. */
const MADE = ['node_modules', 'build', '.git', '.react-router'];

/** A clone of what stands here that belongs to a user without rights, in a home of its own. */
export interface OwnClone {
  home: string;
  /** Runs a command there, with nothing of this process's environment but where programs are. */
  run: (words: string[], environment: Record<string, string>) => Running;
}

/** A command that runs, with what it printed so far. */
interface Running {
  child: ChildProcess;
  said: () => string;
  /** Waits until it printed something; what it printed instead is the error. */
  says: (expected: RegExp) => Promise<RegExpExecArray>;
  stop: () => Promise<void>;
}

/** Makes one in a folder. Packages are those that are installed here; they are linked, and nobody's but ours. */
export function ownClone(home: string): OwnClone {
  const identity = unprivileged('nobody');
  const clone = join(home, 'shrike');
  mkdirSync(clone);
  for (const name of readdirSync(ROOT).filter((each) => !MADE.includes(each)))
    cpSync(join(ROOT, name), join(clone, name), { recursive: true });
  mkdirSync(join(clone, 'build'));
  cpSync(join(ROOT, 'build/test'), join(clone, 'build/start'), { recursive: true });
  if (identity !== null) spawnSync('chown', ['-R', `${identity.uid}:${identity.gid}`, home]);
  const linked = spawnSync('cp', ['-al', join(ROOT, 'node_modules'), clone]);
  if (linked.status !== 0) spawnSync('cp', ['-a', join(ROOT, 'node_modules'), clone]);
  if (identity !== null) chownSync(join(clone, 'node_modules'), identity.uid, identity.gid);

  return {
    home,
    run: ([command = '', ...words], environment) => {
      const child = spawn(command, words, {
        cwd: clone,
        env: { PATH: process.env.PATH, HOME: home, LANG: 'C.UTF-8', ...environment },
        stdio: ['ignore', 'pipe', 'pipe'],
        ...identity,
      });
      const pieces: string[] = [];
      for (const stream of [child.stdout, child.stderr])
        stream.on('data', (piece: Buffer) => pieces.push(piece.toString()));
      const said = () => pieces.join('');
      const says = async (expected: RegExp) => {
        for (const end = Date.now() + 2 * PATIENCE_MS; Date.now() < end; await sleep(100)) {
          const found = expected.exec(said());
          if (found !== null) return found;
          if (child.exitCode !== null) break;
        }
        throw new Error(`it never said ${String(expected)}; it said: ${said().slice(-3000)}`);
      };
      const stop = async () => {
        const all = processesBelow(child.pid ?? 0);
        await stopChild(child);
        await until(() => all.every((pid) => !existsSync(`/proc/${pid}/exe`)), said);
      };
      return { child, said, says, stop };
    },
  };
}
