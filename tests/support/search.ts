import fc from 'fast-check';

// How long each search for a counterexample is; a longer one is asked for by `npm test -- --search=10000`.
fc.configureGlobal({ numRuns: Number(process.env.SHRIKE_SEARCH ?? 100) });
