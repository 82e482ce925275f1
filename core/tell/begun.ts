import { describeCadence, type Cadence } from '../when/cadence';

/** How a report came about, as its first mail to a reader says it. */
export interface Begun {
  /** Whose report it is; null where that is the reader. */
  owner: string | null;
  cadence: Cadence;
}

/**
 * What a reader is told by the first mail of a report that she gets: `This is the first mail of this report to you. It
 * comes each weekday at 07:30; Inés Calloway set it up.`
 */
export function begunWords({ owner, cadence }: Begun, zone: string): string {
  const when = cadence.cut === 'never' ? 'when somebody cuts it' : describeCadence(cadence, zone);
  return `This is the first mail of this report to you. It comes ${when}; ${owner ?? 'you'} set it up.`;
}
