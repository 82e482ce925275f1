/** What is recorded and grows, each kept for a time of its own. */
export const RETAINED = [
  'runs',
  'snapshots',
  'pictures',
  'readings',
  'news',
  'editions',
  'mails',
  'files',
  'edits',
] as const;
export type RetainedKind = (typeof RETAINED)[number];

/** For how many days each is kept. What a trail needs is kept as long as that is, whatever is said of it here. */
export type Retention = Record<RetainedKind, number>;

const LONGEST_DAYS = 36_500;

/** What is wrong with days of keeping, as a sentence; null where nothing is. */
export const retentionFault = (days: number): string | null =>
  Number.isInteger(days) && days >= 1 && days <= LONGEST_DAYS
    ? null
    : 'Things are kept for a whole number of days, from 1 to 36,500.';

/** Bytes as they are said: `4.2 GB`. Powers of ten. */
export function formatBytes(bytes: number, locale: string): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB', 'PB'];
  const at = Math.min(units.length - 1, Math.max(0, Math.floor(Math.log10(Math.max(bytes, 1)) / 3)));
  const amount = bytes / 1000 ** at;
  return `${amount.toLocaleString(locale, { maximumFractionDigits: at === 0 || amount >= 100 ? 0 : 1 })} ${units[at]}`;
}
