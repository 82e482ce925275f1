import type { Pipeline } from './run';

/** What keeping what was judged works with. */
export type Keeping = Pick<Pipeline, 'pool' | 'ids' | 'jobs' | 'publicUrl' | 'mailDomain' | 'links' | 'log'>;
