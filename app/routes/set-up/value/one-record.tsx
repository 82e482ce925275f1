import type { FieldType } from '#core/read/definition';
import { LocatorEditor } from '../../../parts/plan/locator';
import { Section } from '../../../ui/page';
import type { SourceFacts } from '../source/facts';
import { useSource } from '../use-source';
import { Candidates } from './candidates';
import { fieldOf } from './field-of';
import { Guards } from './guards';
import { Mend } from './mend';
import type { OneRecordProps } from './one-record-props';
import { PickAnswered } from './pick-answered';
import { ShownPage } from './shown-page';
import { Taken } from './taken';
import type { Meant } from './picture';
import { usePassing } from './use-passing';
import { usePick } from './use-pick';
import { WallBefore } from './wall-before';

/** The link from page to value: the page to point at, what Shrike found by itself, and what she took. */
export function OneRecord(props: OneRecordProps) {
  const { draftId, draft, shown, mending, facts, wall } = props;
  const pick = usePick(draftId);
  const passing = usePassing(facts);
  const point = (n: number, meant: Meant) => {
    const through = wall === null || wall.kind === 'sign-in' ? undefined : wall.buttons.find((button) => n >= button.n && n <= button.last);
    if (through === undefined || meant !== 'this') pick.one(n, meant);
    else passing.press(through, true);
  };
  const answer = pick.answer?.picked?.ok ? pick.answer.picked.value : null;
  const picked = answer !== null;
  return (
    <div className="grid gap-x-8 gap-y-8 lg:grid-cols-[minmax(0,1fr)_388px]">
      <div className="min-w-0">
        {wall === null || shown.state !== 'done' ? null : <WallBefore wall={wall} steps={facts.steps} passing={passing} />}
        <ShownPage
          draftId={draftId}
          shown={shown}
          label={`The page of ${draft.subject}: point at what to read`}
          picked={pick.numbers.length > 0 ? pick.numbers : (mending?.boxes ?? [])}
          left={pick.not}
          onPick={point}
          onWider={() => pick.to(answer?.wider ?? null)}
          onNarrower={() => pick.to(answer?.narrower ?? null)}
        />
        {shown.state === 'failed' && facts.steps.length > 0 ? (
          <p className="mb-5 text-second" data-steps-before>
            It was opened with these steps: {facts.steps.join(', ')}.{' '}
            <button type="button" className="link" disabled={passing.busy} onClick={passing.takeBack}>
              Take them back
            </button>
          </p>
        ) : null}
        {shown.state === 'done' ? (
          <p className="mt-1.5 flex flex-wrap justify-between gap-x-4 text-glance text-third">
            <span>{shown.takenWords}</span>
            <span>
              click picks · <kbd>[</kbd> wider <kbd>]</kbd> narrower · <kbd>+</kbd> also this <kbd>-</kbd> not this · arrows walk
            </span>
          </p>
        ) : (
          <Candidates {...props} />
        )}
        <WayChosen facts={facts} />
      </div>
      <div className="flex min-w-0 flex-col gap-7">
        {mending === null || picked ? null : <Mend mending={mending} locale={props.locale} />}
        <PickAnswered {...props} pick={pick} passing={passing} />
        <Section title="What is read">
          <Taken {...props} />
        </Section>
        {shown.state === 'done' && !picked ? (
          <Section title="What Shrike found by itself">
            <Candidates {...props} />
          </Section>
        ) : null}
        <Words {...props} />
        <Lists {...props} />
        <Section title="Guards">
          <Guards guards={props.draft.guards} onChange={(guards) => props.onChange({ guards })} />
        </Section>
        <Section title="Somewhere else on the page">
          <OwnPlace {...props} />
        </Section>
      </div>
    </div>
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

/** The page's words as a whole, to be watched for any change or for one phrase. */
function Words({ draft, words, onChange }: OneRecordProps) {
  if (words === null) return null;
  const take = (label: string, type: FieldType) => onChange({ fields: [...draft.fields, fieldOf(label, type, [words], draft.fields)] });
  return (
    <Section title="The page’s words">
      <p className="mt-1 flex flex-wrap gap-x-5 gap-y-1">
        <button type="button" className="link font-semibold" onClick={() => take('text', { kind: 'text' })}>
          Watch the whole text
        </button>
        <button type="button" className="link font-semibold" onClick={() => take('phrase', { kind: 'phrase', phrase: '' })}>
          Watch for a phrase
        </button>
      </p>
    </Section>
  );
}

function Lists({ listings, onRecords }: OneRecordProps) {
  if (listings.length === 0) return null;
  return (
    <Section title="Many at once">
      <ul>
        {listings.map((listing) => (
          <li key={JSON.stringify(listing.records)} className="cell flex items-baseline justify-between gap-3">
            <span className="min-w-0">
              {listing.said}
              <span className="block truncate text-glance text-third">{listing.fields.map((field) => field.label).join(', ')}</span>
            </span>
            <button type="button" className="link shrink-0 font-semibold" aria-label={`Read ${listing.said}`} onClick={() => onRecords(listing)}>
              Read all
            </button>
          </li>
        ))}
      </ul>
    </Section>
  );
}

function OwnPlace({ draftId, draft, locale, onTake }: OneRecordProps) {
  return (
    <div className="mt-2">
      <LocatorEditor
        tryAt={`/watches/new/${draftId}/try`}
        type={{ kind: 'money', currency: null }}
        locale={locale}
        action={{
          label: 'Take this value',
          onTake: (locator, type, trial) => {
            const value = trial.samples[0]?.value;
            if (value == null) return;
            const settled: FieldType = type.kind === 'money' && value.kind === 'money' ? { kind: 'money', currency: value.currency } : type;
            onTake(fieldOf(value.kind === 'money' ? 'price' : 'value', settled, [locator], draft.fields), value);
          },
        }}
      />
    </div>
  );
}
