import type { FieldType } from '#core/read/definition';
import { LocatorEditor } from '../../../../parts/plan/locator';
import { Section } from '../../../../ui/page';
import { Candidates } from './candidates';
import { fieldOf } from './field-of';
import { Guards } from './guards';
import { Mend } from './mend';
import type { OneRecordProps } from './one-record-props';
import { PickAnswered } from './pick-answered';
import { PointedPage } from './pointed-page';
import { Taken } from './taken';
import { usePassing } from './use-passing';
import { usePick } from './use-pick';

/** The link from page to value: the page to point at, what Shrike found by itself, and what she took. */
export function OneRecord(props: OneRecordProps) {
  const { draftId, draft, mending, facts, ofMany } = props;
  const pick = usePick(draftId);
  const passing = usePassing(facts);
  const picked = pick.answer?.picked?.ok === true;
  // Of a page of many, all at once is what she came for.
  const listsFirst = ofMany && draft.fields.length === 0 && !picked;
  return (
    <div className="grid gap-x-8 gap-y-8 lg:grid-cols-[minmax(0,1fr)_388px]">
      <div className="min-w-0 self-start lg:sticky lg:top-3">
        <PointedPage {...props} pick={pick} passing={passing} />
      </div>
      <div className="flex min-w-0 flex-col gap-7">
        {mending === null || picked ? null : <Mend mending={mending} locale={props.locale} />}
        <PickAnswered {...props} pick={pick} passing={passing} />
        {listsFirst ? <Lists {...props} /> : null}
        <Section title="What is read">
          <Taken {...props} />
        </Section>
        {picked ? null : <FoundByItself {...props} />}
        <Words {...props} />
        {listsFirst ? null : <Lists {...props} />}
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

/** Beside the picture; where there is none, it stands in its place. */
function FoundByItself(props: OneRecordProps) {
  if (props.shown.state !== 'done') return null;
  return (
    <Section title={props.ofMany ? 'Or single values' : 'What Shrike found by itself'}>
      <Candidates {...props} />
    </Section>
  );
}

/** The page's words as a whole, to be watched for any change or for one phrase. */
function Words({ draft, words, onChange }: OneRecordProps) {
  if (words === null) return null;
  const take = (label: string, type: FieldType) =>
    onChange({ fields: [...draft.fields, fieldOf(label, type, [words], draft.fields)] });
  return (
    <Section title="The page’s words">
      <p className="mt-1 flex flex-wrap gap-x-5 gap-y-1">
        <button type="button" className="link font-semibold" onClick={() => take('text', { kind: 'text' })}>
          Watch the whole text
        </button>
        <button
          type="button"
          className="link font-semibold"
          onClick={() => take('phrase', { kind: 'phrase', phrase: '' })}
        >
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
              <span className="block truncate text-glance text-third">
                {listing.fields.map((field) => field.label).join(', ')}
              </span>
            </span>
            <button
              type="button"
              className="link shrink-0 font-semibold"
              aria-label={`Read ${listing.said}`}
              onClick={() => onRecords(listing)}
            >
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
            const settled: FieldType =
              type.kind === 'money' && value.kind === 'money' ? { kind: 'money', currency: value.currency } : type;
            onTake(fieldOf(value.kind === 'money' ? 'price' : 'value', settled, [locator], draft.fields), value);
          },
        }}
      />
    </div>
  );
}
