import { formatValue } from '../../../value/format';
import { sameValue, type Value } from '../../../value/value';
import { isOwn } from '../../asked';
import { altered, never, type Pretended } from '../../pretended';
import type { Never, Seen } from '../../seen';
import { askedWords, short } from '../../words';
import { ofOneSeries, type ConditionKind } from '../kind';
import { stateDraftOf, stateSayings, type StateDraft } from './draft';
import { state as works, type StateClause, type StateMemory, type StateTest } from './judge';

/** 10: a state, a flag, a moment or a link. */
export const state: ConditionKind<StateClause, StateDraft, StateMemory> = {
  works,
  ...ofOneSeries,
  words: ({ asked, how }, { brief, ...names }) =>
    `${askedWords(asked, names)} ${stateWords(brief === true ? standing(how) : how, names.locale)}`,
  refuse: () => null,
  sayings: stateSayings,
  draftOf: stateDraftOf,
  knows: ({ how }) => {
    if (how === 'any move') return {};
    const { kind } = wantedBy(how);
    return { kind: kind === 'flag' || kind === 'state' ? kind : 'text' };
  },
  isEvent: ({ how }) => how === 'any move',
  never: ({ asked, how }, seen) => (how !== 'any move' && isOwn(asked) ? neverSaid(asked.field, how, seen) : []),
  pretend: ({ how }) => pretendState(how),
};

type Wanted = Exclude<StateTest, string>;

/** The state that a test looks for; of a move from one to another, where it leads. */
const wantedBy = (how: Wanted): Value =>
  'is' in how ? how.is : 'becomes' in how ? how.becomes : 'leaves' in how ? how.leaves : how.to;

/** What a test leads to, once it is met. */
const standing = (how: StateTest): StateTest => (how === 'any move' || 'leaves' in how ? how : { is: wantedBy(how) });

const saidValue = (value: Value, locale: string): string => {
  const said = formatValue(value, locale);
  return value.kind === 'text' || value.kind === 'state' ? `“${short(said)}”` : said;
};

function stateWords(how: StateTest, locale: string): string {
  if (how === 'any move') return 'moves';
  if ('is' in how) return `is ${saidValue(how.is, locale)}`;
  if ('becomes' in how) return `becomes ${saidValue(how.becomes, locale)}`;
  if ('leaves' in how) return `is no longer ${saidValue(how.leaves, locale)}`;
  return `goes from ${saidValue(how.from, locale)} to ${saidValue(how.to, locale)}`;
}

function neverSaid(field: string, how: Wanted, seen: Seen): Never[] {
  const wanted = wantedBy(how);
  const words = 'state' in wanted ? wanted.state : 'text' in wanted ? wanted.text : '';
  return !seen.read(field) || words === '' || seen.says(field, wanted) ? [] : [{ code: 'never said', field, words }];
}

function pretendState(how: StateTest): Pretended {
  if (how === 'any move') return { stands: never, meets: altered, leaves: altered };
  if ('leaves' in how)
    return {
      stands: (value) => !sameValue(value, how.leaves),
      meets: () => altered(how.leaves),
      leaves: () => how.leaves,
    };
  const to = wantedBy(how);
  const from = 'from' in how ? how.from : null;
  const isReady = (value: Value) => from === null || sameValue(value, from);
  return {
    stands: (value) => sameValue(value, to) || !isReady(value),
    meets: () => to,
    leaves: () => from ?? altered(to),
  };
}
