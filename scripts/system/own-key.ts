import { randomBytes } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** The key that secrets and links are sealed with, made once and kept beside the data, readable by its user alone. */
export function ownKey(folder: string): string {
  const file = join(folder, 'secret-key');
  if (!existsSync(file)) writeFileSync(file, randomBytes(32).toString('hex'), { mode: 0o600 });
  return readFileSync(file, 'utf8').trim();
}
