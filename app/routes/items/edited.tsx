import { useFetcher } from 'react-router';
import type { EditAnswer } from './actions.server';

/** Keeps edits of items, one after another, and says what became of the last. */
export function useEdits() {
  const fetcher = useFetcher<EditAnswer>({ key: 'items' });
  const send = (said: Record<string, string>) => void fetcher.submit(said, { method: 'post', action: '/items' });
  return { send, answer: fetcher.data ?? null, busy: fetcher.state === 'submitting' };
}

/** What was done last, and the way to undo it; or why it was not done. */
export function Edited() {
  const { send, answer, busy } = useEdits();
  return (
    <p role="status" className="min-h-6 pt-1.5 text-glance" aria-busy={busy || undefined} data-edited>
      {answer?.problem == null ? null : <span className="font-medium text-chestnut">{answer.problem}</span>}
      {answer?.said == null ? null : <span className="text-second">{answer.said}. </span>}
      {answer?.batch == null ? null : (
        <button
          type="button"
          className="link"
          disabled={busy}
          onClick={() => send({ intent: 'undo', batch: String(answer.batch) })}
        >
          {answer.said === 'Undone' ? 'Do it again' : 'Undo'}
        </button>
      )}
    </p>
  );
}
