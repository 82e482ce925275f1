import type { DraftBase } from '../../draft/base';
import { counted } from '../../draft/figures';
import { zoneOf } from '../../draft/said-in';
import { ofCount } from '../../refusal';
import { askedWords } from '../../words';
import { ofOneSeries, type ConditionKind } from '../kind';
import { unusual as works, type UnusualClause, type UnusualMemory } from './judge';

/** What is unusual while it is being said. */
export interface UnusualDraft extends DraftBase {
  verb: 'is unusual';
  side: 'high' | 'low' | 'either';
  /** About one false alarm in so many readings. */
  count: string;
  /** Of a kept one, the zone whose clock it goes by; else the reader's. */
  zone?: string;
}

const STRICT = [20, 50, 100, 200, 500, 1000, 5000];

/** 14: outside of the band that is expected, by what came before. */
export const unusual: ConditionKind<UnusualClause, UnusualDraft, UnusualMemory> = {
  works,
  ...ofOneSeries,
  words: ({ asked, side, oneIn }, names) =>
    `${askedWords(asked, names)} is unusually ` +
    `${side === 'either' ? 'high or low' : side}${names.brief === true ? '' : ` (about one false alarm in ${oneIn})`}`,
  // One in one would be every reading.
  refuse: ({ oneIn }) => ofCount(oneIn - 1),
  sayings: {
    verbs: ['is unusual'],
    blank: { side: 'either', count: '' },
    besides: ['zone'],
    toClause: (draft, said) => {
      const { field, side, count } = draft;
      const zone = zoneOf(draft, said);
      return counted(count, 'readings', (oneIn) => ({ kind: 'unusual', asked: { field }, side, oneIn, zone }));
    },
  },
  draftOf: ({ oneIn, side, zone }) => ({ verb: 'is unusual', count: String(oneIn), side, zone }),
  countsRuns: () => true,
  seesHistory: () => true,
  variants: (clause) =>
    STRICT.map((oneIn) => ({ clause: { ...clause, oneIn }, of: { what: 'strictness', oneIn } as const })),
};
