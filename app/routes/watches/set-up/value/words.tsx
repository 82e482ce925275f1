import { useFetcher } from 'react-router';
import type { Field } from '#core/read/definition';
import type { VolatilePart } from '#core/read/volatile';
import { Button } from '../../../../ui/button';

/** What was found out about the parts of a page that move by themselves. */
export interface Volatile {
  state: 'none' | 'asked' | 'done' | 'failed';
  problem: string | null;
  /** By field. */
  parts: Record<string, VolatilePart[]>;
}

/** The parts of a watched text that move by themselves: fetched twice, found, and masked with a click. */
export function Masks({
  field,
  volatile,
  onMask,
}: {
  field: Field & { type: { kind: 'text' } };
  volatile: Volatile;
  onMask: (mask: string) => void;
}) {
  const fetcher = useFetcher();
  const masks = field.type.masks ?? [];
  const parts = (volatile.parts[field.key] ?? []).filter((part) => !masks.includes(part.mask));
  const asking = fetcher.state !== 'idle' || volatile.state === 'asked';
  return (
    <div className="mt-2" data-masks>
      <p className="flex items-baseline justify-between gap-3">
        <span className="text-glance text-third">
          What moves by itself, like a clock or a visitor count, is no news.
        </span>
        <Button disabled={asking} onClick={() => void fetcher.submit({ intent: 'again' }, { method: 'post' })}>
          {asking ? 'Fetching again …' : 'Fetch again and compare'}
        </Button>
      </p>
      {volatile.state === 'failed' ? <p className="text-glance font-medium text-chestnut">{volatile.problem}</p> : null}
      {volatile.state === 'done' && parts.length === 0 ? (
        <p className="text-glance text-third">
          {masks.length > 0 ? 'Nothing else differs between two fetches.' : 'Two fetches read the same.'}
        </p>
      ) : null}
      <ul>
        {parts.map((part) => (
          <li key={part.mask} className="cell flex items-baseline justify-between gap-3">
            <span className="min-w-0 break-words">
              “{part.was}” → “{part.is}”
            </span>
            <button
              type="button"
              className="link shrink-0 font-semibold"
              aria-label={`Mask ${part.was}`}
              onClick={() => onMask(part.mask)}
            >
              Mask it
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
