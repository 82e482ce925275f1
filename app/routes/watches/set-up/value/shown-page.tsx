import type { DraftId, PreviewId } from '#core/id';
import type { Box } from '#core/read/inspect/wall';
import { PagePicture, type Marked, type Pointing } from './picture';

/** The page as the browser showed it, or how far that is. */
export interface Shown {
  state: 'none' | 'asked' | 'done' | 'failed';
  problem: string | null;
  lookId: PreviewId | null;
  width: number;
  height: number;
  boxes: Box[];
  takenWords: string | null;
}

interface ShownPageProps extends Partial<Pointing> {
  draftId: DraftId;
  shown: Shown;
  label: string;
  /** The numbers of the elements that are marked. */
  picked: number[];
  left?: number[];
  /** What was taken already. */
  taken?: Marked[];
}

/**
 * The page as the browser showed it, to be pointed at where that is asked for, or what stands in its place until then.
 */
export function ShownPage({ draftId, shown, picked, left = [], taken = [], label, ...pointing }: ShownPageProps) {
  if (shown.state === 'asked') {
    return (
      <div className="mb-5 border border-rule bg-paper px-5 py-4" role="status">
        <p className="font-medium">The browser is opening the page …</p>
        <p className="text-second">
          In a few seconds you can see it here. What can be read without it is there already.
        </p>
      </div>
    );
  }
  if (shown.state === 'failed') {
    return (
      <p className="mb-5 border border-rule bg-paper px-5 py-4 text-second" role="status">
        There is no picture of this page. {shown.problem} What a plain fetch brought can be read all the same.
      </p>
    );
  }
  if (shown.state !== 'done' || shown.lookId === null) return null;
  const { width, height, boxes } = shown;
  return (
    <PagePicture
      image={`/watches/new/${draftId}/image/${shown.lookId}`}
      {...{ width, height, boxes, picked, left, taken, label }}
      {...pointing}
    />
  );
}
