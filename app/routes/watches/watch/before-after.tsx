import type { WatchId } from '#core/id';
import { formatInstant } from '#core/when/format';
import { Section } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import type { SeenThen } from './before-after.server';

/** The page before and after a change, with the place marked. */
export function BeforeAfter({
  watchId,
  before,
  after,
}: {
  watchId: WatchId;
  before: SeenThen | null;
  after: SeenThen;
}) {
  return (
    <Section title="As the page showed it" className="mt-4">
      <div className="mt-2 grid gap-4 sm:grid-cols-2 lg:grid-cols-1 xl:grid-cols-2" data-before-after>
        {before === null ? null : <Cutting watchId={watchId} seen={before} name="Before" />}
        <Cutting watchId={watchId} seen={after} name="After" />
      </div>
    </Section>
  );
}

const CUT_HEIGHT = 150;
const MARGIN = 4;

/** The part of the picture around the value, at the page's own size; the whole picture is a click away. */
export function Cutting({ watchId, seen, name }: { watchId: WatchId; seen: SeenThen; name: string }) {
  const { place } = useReader();
  const address = `/watches/${watchId}/picture/${seen.snapshotId}`;
  const box = seen.place ?? { x: 0, y: 0, w: seen.width, h: CUT_HEIGHT };
  const middle = { x: box.x + Math.min(box.w, 400) / 2, y: box.y + box.h / 2 };
  const top = Math.max(0, Math.min(middle.y - CUT_HEIGHT / 2, seen.height - CUT_HEIGHT));
  return (
    <figure className="m-0 min-w-0">
      <a
        href={address}
        target="_blank"
        rel="noreferrer"
        className="relative block overflow-hidden border border-rule"
        style={{ height: CUT_HEIGHT }}
      >
        <img
          src={address}
          alt={`${name}: the page ${formatInstant(seen.takenAt, 'moment', place)}`}
          width={seen.width}
          height={seen.height}
          className="absolute max-w-none"
          style={{ left: `calc(50% - ${middle.x}px)`, top: -top }}
        />
        {seen.place === null ? null : (
          <span
            aria-hidden
            className="absolute outline-2 outline-chestnut"
            style={{
              left: `calc(50% - ${middle.x}px + ${box.x - MARGIN}px)`,
              top: box.y - top - MARGIN,
              width: box.w + 2 * MARGIN,
              height: box.h + 2 * MARGIN,
            }}
          />
        )}
      </a>
      <figcaption className="mt-1 text-glance text-third">
        {name}, {formatInstant(seen.takenAt, 'moment', place)}
      </figcaption>
    </figure>
  );
}
