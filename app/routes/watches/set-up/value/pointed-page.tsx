import type { SourceFacts } from '../source/facts';
import { useSource } from '../use-source';
import { Candidates } from './candidates';
import type { OneRecordProps } from './one-record-props';
import type { Meant } from './picture';
import { ShownPage } from './shown-page';
import type { usePassing } from './use-passing';
import type { usePick } from './use-pick';
import { WallBefore } from './wall-before';

interface PointedPageProps extends OneRecordProps {
  pick: ReturnType<typeof usePick>;
  passing: ReturnType<typeof usePassing>;
}

/** The page as it was seen, to be pointed at, with what stands before it and how it was come by. */
export function PointedPage({ pick, passing, ...props }: PointedPageProps) {
  const { draftId, draft, shown, mending, facts, wall, taken } = props;
  const isSeen = shown.state === 'done';
  const answer = pick.answer?.picked?.ok ? pick.answer.picked.value : null;
  const point = (n: number, meant: Meant) => {
    const through =
      wall?.kind === 'sign-in' ? undefined : wall?.buttons.find((button) => n >= button.n && n <= button.last);
    if (through === undefined || meant !== 'this') pick.one(n, meant);
    else passing.press(through, true);
  };
  return (
    <>
      {wall !== null && isSeen ? <WallBefore wall={wall} steps={facts.steps} passing={passing} /> : null}
      <ShownPage
        draftId={draftId}
        shown={shown}
        label={`The page of ${draft.subject}: point at what to read`}
        picked={pick.numbers.length > 0 ? pick.numbers : (mending?.boxes ?? [])}
        left={pick.not}
        taken={taken}
        onPick={point}
        onWider={() => pick.to(answer?.wider ?? null)}
        onNarrower={() => pick.to(answer?.narrower ?? null)}
      />
      {shown.state === 'failed' && facts.steps.length > 0 ? <StepsBefore facts={facts} passing={passing} /> : null}
      {isSeen ? <Caption taken={shown.takenWords} /> : <Candidates {...props} />}
      <WayChosen facts={facts} />
    </>
  );
}

function Caption({ taken }: { taken: string | null }) {
  return (
    <p className="mt-1.5 flex flex-wrap justify-between gap-x-4 text-glance text-third">
      <span>{taken}</span>
      <span>
        click picks · <kbd>[</kbd> wider <kbd>]</kbd> narrower · <kbd>+</kbd> also this <kbd>-</kbd> not this · arrows
        walk
      </span>
    </p>
  );
}

/** With which steps the page could not be opened. */
function StepsBefore({ facts, passing }: { facts: SourceFacts; passing: ReturnType<typeof usePassing> }) {
  return (
    <p className="mb-5 text-second" data-steps-before>
      It was opened with these steps: {facts.steps.join(', ')}.{' '}
      <button type="button" className="link" disabled={passing.busy} onClick={passing.takeBack}>
        Take them back
      </button>
    </p>
  );
}

/** Why the page is rendered, where a plain fetch lacks something of it; she may think otherwise. */
function WayChosen({ facts }: { facts: SourceFacts }) {
  const { busy, set } = useSource();
  if (facts.way !== 'rendered' || facts.needed?.way !== 'rendered') return null;
  return (
    <p className="mt-1.5 text-second" data-way-chosen>
      Fetched by a browser, which takes longer: {facts.needed.said.replace(/^(The|A) /, (word) => word.toLowerCase())}{' '}
      <button
        type="button"
        className="link"
        disabled={busy}
        onClick={() => set({ way: 'plain', request: JSON.stringify({ ...facts.request, steps: undefined }) })}
      >
        Fetch it plainly instead
      </button>
    </p>
  );
}
