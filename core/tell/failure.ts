import type { ReadProblem } from '../read/problem';
import type { GuardCause } from '../read/guard';

/** What a watch that is not read suffers from, as it is told once. */
export type Cause =
  | 'gone'
  | 'discontinued'
  | 'not answering'
  | 'rebuilt'
  | 'refused us'
  | 'something in the way'
  | 'another page'
  | 'in question'
  | 'not readable';

/** What happened, as the end of a sentence that begins with the watch, and what it means for her. */
export const CAUSES: Record<Cause, { happened: string; means: string }> = {
  gone: { happened: 'its page is gone', means: 'It is tried daily in case it comes back.' },
  discontinued: { happened: 'the page says it is no longer sold', means: 'If that is so, the watch can be ended.' },
  'not answering': {
    happened: 'the site does not answer',
    means: 'It is asked more and more rarely, at least daily, until it does.',
  },
  rebuilt: {
    happened: 'its page was built anew, and the value is not where it was',
    means: 'Mend it on the watch’s page: Shrike proposes where it went.',
  },
  'refused us': { happened: 'the site refuses us', means: 'Its rules or its sign-in may have changed.' },
  'something in the way': {
    happened: 'something stands before the page: a consent wall or a sign-in',
    means: 'Steps before the page is read may get past it.',
  },
  'another page': {
    happened: 'another page came in its place',
    means: 'Nothing is read from it. See whether the address is still right.',
  },
  'in question': {
    happened: 'what stands around its value is another than before',
    means: 'The last good value stands until somebody says whether it is the same.',
  },
  'not readable': { happened: 'what came cannot be read', means: 'See on the watch’s page what it says.' },
};

const OF_STATUS: Record<number, Cause> = {
  401: 'refused us',
  403: 'refused us',
  404: 'gone',
  410: 'gone',
  429: 'refused us',
  451: 'refused us',
};

const OF_FETCH: Record<string, Cause> = {
  robots: 'refused us',
  'robots unread': 'not readable',
  sealed: 'refused us',
  'not text': 'not readable',
  'too large': 'not readable',
  empty: 'not readable',
  'not kept': 'not readable',
  'ended the process': 'not readable',
  'led elsewhere': 'refused us',
  'not followed': 'not readable',
  step: 'something in the way',
  'bad certificate': 'refused us',
};

/** The cause behind a failed fetch, by its reason and status. */
export function causeOfFetch(reason: string, status: number | null): Cause {
  return (reason === 'status' && status !== null ? OF_STATUS[status] : OF_FETCH[reason]) ?? 'not answering';
}

const OF_GUARD: Record<GuardCause, Cause> = {
  'consent wall': 'something in the way',
  'sign-in page': 'something in the way',
  'retired page': 'discontinued',
  'wrong product': 'another page',
  'another address': 'another page',
  'another layout': 'rebuilt',
  'too few or too many': 'not readable',
};

/**
 * The cause behind a body that was fetched and not read. `seems` is what the page looks like, where its words say so.
 */
export function causeOfReading(problem: ReadProblem, seems: GuardCause | null): Cause {
  if (problem.reason === 'in question') return 'in question';
  if (problem.reason === 'guard') return OF_GUARD[problem.failure.cause];
  if (seems !== null) return OF_GUARD[seems];
  const rebuilt = ['no match', 'several matches', 'disagreement', 'one way left', 'no records', 'not parsed'];
  return rebuilt.includes(problem.reason) ? 'rebuilt' : 'not readable';
}

/** A cause that one run settles; others are told when they last. */
export function isForGood(cause: Cause, status: number | null): boolean {
  return cause === 'discontinued' || status === 410;
}
