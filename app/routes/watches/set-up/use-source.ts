import { useFetcher, useParams } from 'react-router';

/**
 * How a draft's source is set and fetched anew; one for all parts of the set-up, so that what came of it is said
 * wherever she has gone meanwhile.
 */
export function useSource() {
  const { draft } = useParams();
  const { submit, state, data } = useFetcher<{ problem: string | null }>({ key: `source ${draft}` });
  return {
    busy: state !== 'idle',
    problem: state === 'idle' ? (data?.problem ?? null) : null,
    /** Fetches it so from here on. */
    set: (source: { way: string; request: string; secret?: string; secrets?: string }) =>
      void submit({ intent: 'source', ...source }, { method: 'post' }),
  };
}
