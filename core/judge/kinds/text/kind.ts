import { compilePattern } from '../../../read/pattern';
import { fail, ok } from '../../../result';
import { foldText } from '../../../value/parse';
import type { Value } from '../../../value/value';
import { isOwn } from '../../asked';
import type { DraftBase } from '../../draft/base';
import type { Pretended } from '../../pretended';
import type { Refusal } from '../../refusal';
import type { Never, Seen } from '../../seen';
import { askedWords, short } from '../../words';
import { ofOneSeries, type ConditionKind } from '../kind';
import { text as works, type TextClause, type TextMemory } from './judge';

/** A phrase or a pattern while it is being said. */
export interface TextDraft extends DraftBase {
  verb: keyof typeof PHRASES | 'matches';
  words: string;
}

const PHRASES = {
  'has the phrase': 'there',
  'lacks the phrase': 'not there',
  'gains the phrase': 'appears',
  'loses the phrase': 'disappears',
} as const;

const VERBS = Object.keys(PHRASES) as (keyof typeof PHRASES)[];

type PhraseIs = (typeof PHRASES)[keyof typeof PHRASES];

/** How a phrase stands once its condition is met. */
const STANDING = { there: 'is', 'not there': 'is not', appears: 'is', disappears: 'is not' } as const;
const SAID = { ...STANDING, appears: 'appears', disappears: 'disappears' } as const;

/** 12: a phrase, or a pattern (RE2). */
export const text: ConditionKind<TextClause, TextDraft, TextMemory> = {
  works,
  ...ofOneSeries,
  words: ({ asked, how }, names) =>
    'phrase' in how
      ? `“${short(how.phrase)}” ${(names.brief === true ? STANDING : SAID)[how.is]} in ${askedWords(asked, names)}`
      : `${askedWords(asked, names)} matches ${short(how.matches)}`,
  refuse: ({ how }) => refuseText(how),
  sayings: {
    verbs: [...VERBS, 'matches'],
    blank: { words: '' },
    toClause: ({ field, verb, words }) => {
      const asked = { field };
      if (words.trim() === '') return fail(verb === 'matches' ? 'Say the pattern.' : 'Say which phrase.');
      const how = verb === 'matches' ? { matches: words } : { phrase: words.trim(), is: PHRASES[verb] };
      return ok({ kind: 'text', asked, how });
    },
  },
  draftOf: ({ how }) =>
    'matches' in how ? { verb: 'matches', words: how.matches } : { verb: verbOf(how.is), words: how.phrase },
  knows: () => ({ kind: 'text' }),
  never: ({ asked, how }, seen) => ('phrase' in how && isOwn(asked) ? neverHad(asked.field, how, seen) : []),
  pretend: ({ how }) =>
    'phrase' in how ? pretendPhrase(how.phrase, how.is === 'there' || how.is === 'appears') : null,
};

const verbOf = (is: PhraseIs) => VERBS.find((verb) => PHRASES[verb] === is) ?? 'has the phrase';

function refuseText(how: TextClause['how']): Refusal | null {
  if ('phrase' in how) return how.phrase.trim() === '' ? { code: 'nothing said' } : null;
  const pattern = compilePattern(how.matches);
  return pattern.ok ? null : { code: 'bad pattern', said: pattern.error };
}

function neverHad(field: string, { phrase, is }: { phrase: string; is: string }, seen: Seen): Never[] {
  const has = is === 'not there' || !seen.read(field) || seen.hasPhrase(field, foldText(phrase).toLowerCase());
  return has ? [] : [{ code: 'never said', field, words: phrase }];
}

function pretendPhrase(phrase: string, there: boolean): Pretended {
  const has = (value: Value) =>
    value.kind === 'text' && foldText(value.text).toLowerCase().includes(foldText(phrase).toLowerCase());
  const put = (value: Value): Value | null =>
    value.kind === 'text' ? { kind: 'text', text: has(value) ? value.text : `${value.text} ${phrase}` } : null;
  const taken = (value: Value): Value | null =>
    value.kind === 'text' ? { kind: 'text', text: has(value) ? '…' : value.text } : null;
  return { stands: (value) => has(value) === there, meets: there ? put : taken, leaves: there ? taken : put };
}
