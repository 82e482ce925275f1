import type { WatchId } from '#core/id';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { formatInstant } from '#core/when/format';
import type { LikeWatch } from '#server/db/watch/views/like-watches';
import { SelectField } from '../../../ui/field';
import { Section } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';

interface NoHistoryProps {
  watch: WatchId;
  /** The fields that the rule asks, or would. */
  fields: readonly string[];
  onBorrow: (like: LikeWatch) => void;
}

/** Before there is a history: that of a like watch is offered to try a rule on. */
export function NoHistory({ watch, fields, onBorrow }: NoHistoryProps) {
  const { place } = useReader();
  const likes = useLikes(watch, fields);
  return (
    <Section title="What it would have done">
      <p data-no-history>There is no history yet to try a rule on: each run from now on adds to it.</p>
      {likes.length === 0 ? null : (
        <div className="mt-2 max-w-md">
          <SelectField
            label="Try it on the history of a like watch"
            value=""
            options={[
              { value: '', label: 'choose one …' },
              ...likes.map(({ id, subject, site, since }) => ({
                value: String(id),
                label: `${subject} at ${site}, read since ${formatInstant(since, 'date', place)}`,
              })),
            ]}
            onChange={(event) => {
              const like = likes.find(({ id }) => String(id) === event.target.value);
              if (like !== undefined) onBorrow(like);
            }}
          />
        </div>
      )}
    </Section>
  );
}

/** Says on whose history a rule is tried, where that is not its own. */
export function Borrowed({ like, onGiveBack }: { like: LikeWatch; onGiveBack: () => void }) {
  return (
    <p className="text-second" data-borrowed>
      Tried on what was read of{' '}
      <Link className="link" to={`/watches/${like.id}`}>
        {like.subject} at {like.site}
      </Link>
      , on all of its records: this watch has no history yet.{' '}
      <button type="button" className="link" onClick={onGiveBack}>
        Choose another
      </button>
    </p>
  );
}

function useLikes(watch: WatchId, fields: readonly string[]): LikeWatch[] {
  const [likes, setLikes] = useState<LikeWatch[]>([]);
  const asked = new URLSearchParams(fields.map((field) => ['field', field])).toString();
  useEffect(() => {
    const leaving = new AbortController();
    fetch(`/watches/${watch}/like?${asked}`, { signal: leaving.signal })
      .then((response) => (response.ok ? (response.json() as Promise<LikeWatch[]>) : []))
      .then(setLikes)
      // Where none can be found none is offered.
      .catch(() => undefined);
    return () => leaving.abort();
  }, [watch, asked]);
  return likes;
}
