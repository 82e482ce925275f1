import { listed } from '../words';

/** Why somebody cannot be reached: her address is not confirmed, or refused mail for good. */
type Unreached = 'unconfirmed' | 'paused';

/** Why a mail to somebody is kept back: she cannot be reached, or as many have gone out as may. */
export type Suppression = Unreached | 'allowance';

/** Somebody who would hear, and why she cannot be reached; null where she can. */
export interface ReachedBy {
  name: string;
  kept: Unreached | null;
}

const WORDS: Record<Unreached, [one: string, many: string]> = {
  unconfirmed: ['has not confirmed the address', 'have not confirmed their addresses'],
  paused: [
    'cannot be reached, since the address refused mail for good',
    'cannot be reached, since their addresses refused mail for good',
  ],
};

const MOST_NAMED = 4;

/** Who of some readers cannot be reached, and why: `Tom Aske has not confirmed the address`; empty where all can. */
export function unreachedWords(readers: readonly ReachedBy[]): string[] {
  return (['unconfirmed', 'paused'] as const).flatMap((why) => {
    const names = readers.filter(({ kept }) => kept === why).map(({ name }) => name);
    return names.length === 0 ? [] : [`${listed(names, MOST_NAMED)} ${WORDS[why][names.length === 1 ? 0 : 1]}`];
  });
}
