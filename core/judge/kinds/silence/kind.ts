import { formatDuration } from '../../../when/format';
import { isWhole, LONGEST, MOST_READINGS, NOTHING } from '../../refusal';
import { askedWords, type Names } from '../../words';
import { ofOneSeries, type ConditionKind } from '../kind';
import { silenceDraftOf, silenceSayings, type SilenceDraft } from './draft';
import { silence as works, type SilenceClause, type SilenceMemory } from './judge';

/** 16: judged by the clock. */
export const silence: ConditionKind<SilenceClause, SilenceDraft, SilenceMemory> = {
  works,
  ...ofOneSeries,
  words: silenceWords,
  refuse: ({ how }) => {
    const count = 'ms' in how ? how.ms : 'count' in how ? how.count : Math.ceil(how.times);
    return isWhole(count, 'ms' in how ? LONGEST : MOST_READINGS) ? null : NOTHING;
  },
  sayings: silenceSayings,
  draftOf: silenceDraftOf,
  isSilence: true,
  isClocked: () => true,
  countsRuns: () => true,
  seesHistory: () => true,
  hearsFailures: ({ how }) => how.of === 'runs',
};

function silenceWords({ asked, how }: SilenceClause, names: Names): string {
  switch (how.of) {
    case 'readings':
      return `nothing is heard of ${askedWords(asked, names)} for ${formatDuration(how.ms)}`;
    case 'runs':
      return `${how.count} runs in a row fail`;
    case 'moves':
      return (
        `${askedWords(asked, names)} does not move for ` +
        `${'ms' in how ? formatDuration(how.ms) : `${how.times} times as long as usual`}`
      );
  }
}
