import fc from 'fast-check';

/** How long a search for a counterexample is: 100 as a rule, 1,000 in `npm run test:long`, or as `--search=N` says. */
const SEARCH = Number(process.env.SHRIKE_SEARCH ?? 100);

/** How often something is tried in a search that tries it `usual` times as a rule. */
export const tries = (usual: number): number => Math.ceil((usual * SEARCH) / 100);

/** Whether this is the long run, which looks at each of what the usual one takes a share of. */
export const IS_LONG = SEARCH > 100;

fc.configureGlobal({ numRuns: SEARCH });
