/** SQLSTATE classes of an outage, or of a meeting with another transaction: what was tried may do later. */
const PASSING = /^(08|40|53|55|57|58)/;
const LOST = /connection|terminated|timeout exceeded when trying to connect|pool after calling end/i;

/** Whether an error says that the database was away, or in the way; any other one would come again. */
export function isOutage(error: unknown): boolean {
  const { code, message = '' } = error as { code?: unknown; message?: string };
  if (typeof code === 'string') return /^E[A-Z]{3,}$/.test(code) || PASSING.test(code);
  return LOST.test(message);
}

const DISK_FULL = '53100';
const NO_SPACE = /No space left on device|Disk quota exceeded/i;

/** Whether an error says that nothing more can be written down, for want of room. */
export function isDiskFull(error: unknown): boolean {
  const { code, message = '' } = error as { code?: unknown; message?: string };
  return code === DISK_FULL || NO_SPACE.test(message);
}
