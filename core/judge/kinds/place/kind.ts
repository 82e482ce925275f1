import { ok } from '../../../result';
import type { DraftBase } from '../../draft/base';
import { counted } from '../../draft/figures';
import { ofCount } from '../../refusal';
import { askedWords } from '../../words';
import { ofOneSeries, type ConditionKind } from '../kind';
import { place as works, type PlaceClause, type PlaceMemory, type RankClause } from './judge';

type PlaceVerb = `${PlaceClause['how']} the ${PlaceClause['end']} place`;

/** A place while it is being said. */
export interface PlaceDraft extends DraftBase {
  verb: PlaceVerb;
  /** It is that among the offers of its item, instead of among all records. */
  among?: 'offers' | undefined;
}

/** A move in rank while it is being said. */
export interface RankDraft extends DraftBase {
  verb: 'moves in rank';
  /** By at least so many places. */
  count: string;
  among?: 'offers' | undefined;
}

const HOWS = ['takes', 'loses', 'has', 'has not'] as const;
export const PLACE_VERBS = (['lowest', 'highest'] as const).flatMap((end) =>
  HOWS.map((how) => `${how} the ${end} place` as const),
);

const among = {
  group: ({ asked, among: group }: PlaceClause | RankClause) => ({ asked, among: group }),
};

/** 13: its place among the others of a group. */
export const place: ConditionKind<PlaceClause, PlaceDraft, PlaceMemory> = {
  works: works,
  ...ofOneSeries,
  ...among,
  words: ({ asked, among: group, end, how }, names) =>
    `${askedWords(asked, names)} ${how} the ${end} place ${amongWords(group)}`,
  refuse: () => null,
  sayings: {
    verbs: PLACE_VERBS,
    blank: {},
    besides: ['among'],
    ofItsOwn: PLACE_VERBS,
    toClause: ({ field, verb, among: group = 'records' }) => {
      const [, how, end] = /^(.*) the (lowest|highest) place$/.exec(verb) ?? [];
      return ok({ kind: 'place', asked: { field }, among: group, end: end as 'lowest', how: how as 'takes' });
    },
  },
  draftOf: ({ how, end, among: group }) =>
    isSayable(group) ? { verb: `${how} the ${end} place`, ...amongDraft(group) } : null,
  isEvent: ({ how }) => how === 'takes' || how === 'loses',
};

/** 13: its rank among them moved by so many places. */
export const rank: ConditionKind<RankClause, RankDraft, PlaceMemory> = {
  works: works,
  ...ofOneSeries,
  ...among,
  words: ({ asked, among: group, by }, names) =>
    `the rank of ${askedWords(asked, names)} ${amongWords(group)} moves by at least ${by}`,
  refuse: ({ by }) => ofCount(by),
  sayings: {
    verbs: ['moves in rank'],
    blank: { count: '' },
    besides: ['among'],
    ofItsOwn: ['moves in rank'],
    toClause: ({ field, count, among: group = 'records' }) =>
      counted(count, 'places', (by) => ({ kind: 'rank', asked: { field }, among: group, end: 'lowest', by })),
  },
  draftOf: ({ by, end, among: group }) =>
    isSayable(group) && end === 'lowest' ? { verb: 'moves in rank', count: String(by), ...amongDraft(group) } : null,
  isEvent: () => true,
};

const isSayable = (group: string) => group === 'records' || group === 'offers';
const amongDraft = (group: string) => (group === 'offers' ? { among: group } : {}) as { among?: 'offers' };

const amongWords = (group: string) => (group === 'records' ? 'among all records' : 'among the offers of the item');
