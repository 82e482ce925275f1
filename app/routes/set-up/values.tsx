import { useEffect, useState } from 'react';
import { useFetcher } from 'react-router';
import type { Candidate } from '#core/read/candidates';
import type { Field, FieldType } from '#core/read/definition';
import type { Guard } from '#core/read/guard';
import { freeKey } from '#core/read/keys';
import type { Locator } from '#core/read/locator';
import type { Listing } from '#core/read/preview';
import { formatValue } from '#core/value/format';
import type { Value } from '#core/value/value';
import type { PlanDraft, PresentValues } from '../../parts/plan/plan';
import { LocatorEditor } from '../../parts/plan/locator';
import { TypeSettings } from '../../parts/plan/type-settings';
import { kindLabel, typeOfKind } from '../../parts/plan/types';
import { Ways } from '../../parts/plan/ways';
import { Button } from '../../ui/button';
import { Section } from '../../ui/page';
import { Guards } from './guards';
import type { PickAnswer } from './pick';
import { PickPanel } from './pick-panel';
import { Mend } from './mend';
import type { MendingShown } from './mending.server';
import { Masks, type Volatile } from './words';
import { PagePicture, type Meant, type PictureBox } from './picture';

/** The page as the browser showed it, or how far that is. */
export interface Shown {
  state: 'none' | 'asked' | 'done' | 'failed';
  problem: string | null;
  lookId: number | null;
  width: number;
  height: number;
  boxes: PictureBox[];
  takenWords: string | null;
}

export interface ValuesStepProps {
  draftId: number;
  draft: PlanDraft;
  candidates: Candidate[];
  listings: Listing[];
  shown: Shown;
  present: PresentValues;
  mending: MendingShown | null;
  volatile: Volatile;
  /** The way to the words of the page. */
  words: Locator | null;
  locale: string;
  onTake: (field: Field, value: Value, guards: Guard[]) => void;
  onChange: (change: Partial<PlanDraft>) => void;
  onRecords: (listing: Listing) => void;
}

/** The link from page to value: the page to point at, what Shrike found by itself, and what she took. */
export function ValuesStep(props: ValuesStepProps) {
  const { draftId, shown } = props;
  const pick = usePick(draftId);
  const picked = pick.answer?.picked?.ok === true;
  return (
    <div className="grid gap-x-8 gap-y-8 lg:grid-cols-[minmax(0,1fr)_388px]">
      <div className="min-w-0">
        <Picture {...props} pick={pick} />
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
      </div>
      <div className="flex min-w-0 flex-col gap-7">
        {props.mending === null || picked ? null : <Mend mending={props.mending} locale={props.locale} />}
        <PickAnswered {...props} pick={pick} />
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

/** What the server made of the picks: one place, several alike, or why nothing can be read there. */
function PickAnswered({ pick, draft, locale, onTake, onRecords, onChange }: ValuesStepProps & { pick: ReturnType<typeof usePick> }) {
  const { answer } = pick;
  if (answer === null) return null;
  const refused = (answer.picked?.ok === false ? answer.picked.error : null) ?? (answer.listing?.ok === false ? answer.listing.error : null);
  if (refused !== null) {
    return (
      <p role="alert" className="font-medium text-chestnut">
        {refused}
      </p>
    );
  }
  if (answer.listing?.ok) {
    const listing = answer.listing.value;
    return <Joint listing={listing} onTake={() => onRecords(listing)} onLeave={pick.leave} />;
  }
  if (!answer.picked?.ok) return null;
  const picked = answer.picked.value;
  return (
    <PickPanel
      picked={picked}
      locale={locale}
      onType={(kind) => pick.readAs(typeOfKind(kind))}
      onWider={() => pick.to(picked.wider)}
      onNarrower={() => pick.to(picked.narrower)}
      onLeave={pick.leave}
      onRecords={() => picked.listing !== null && onRecords(picked.listing)}
      texts={draft.fields.filter((field) => field.type.kind === 'text').map((field) => field.label)}
      onMask={(label) => {
        onChange({ fields: draft.fields.map((field) => (field.label === label ? withoutPart(field, picked.candidate.locators) : field)) });
        pick.leave();
      }}
      onTake={(guards) => {
        const { candidate } = picked;
        onTake(fieldOf(candidate.label, candidate.type, candidate.locators, draft.fields), candidate.value, guards);
        pick.leave();
      }}
    />
  );
}

/** A text without the picked part of it, by the way that will last longest. */
function withoutPart(field: Field, found: Locator[]): Field {
  const part = found.find((locator) => locator.way === 'css');
  if (part?.way !== 'css') return field;
  const { selector } = part;
  return {
    ...field,
    locators: field.locators.map((each) => (each.way === 'css' ? { ...each, without: [...(each.without ?? []), selector] } : each)),
  };
}

/** The picks on screen, and what the server makes of them. */
function usePick(draftId: number) {
  const { load, data } = useFetcher<PickAnswer>();
  const [numbers, setNumbers] = useState<number[]>([]);
  const [not, setNot] = useState<number[]>([]);
  const [type, setType] = useState<FieldType | null>(null);
  const query = numbers.length === 0 ? null : askFor(numbers, not, type);
  useEffect(() => {
    if (query !== null) void load(`/watches/new/${draftId}/pick?${query}`);
  }, [draftId, query, load]);
  return {
    numbers,
    not,
    answer: query === null ? null : (data ?? null),
    one: (n: number, meant: Meant) => {
      if (meant === 'not this') return setNot(numbers.length === 0 ? [] : [...not, n]);
      setNumbers(meant === 'also this' ? [...numbers.slice(-1), n] : [n]);
      if (meant === 'this') {
        setNot([]);
        setType(null);
      }
    },
    to: (n: number | null) => {
      if (n === null) return;
      setNumbers([n]);
      setNot([]);
    },
    readAs: setType,
    leave: () => {
      setNumbers([]);
      setNot([]);
      setType(null);
    },
  };
}

function askFor(numbers: number[], not: number[], type: FieldType | null): string {
  const query = new URLSearchParams([...numbers.map((n) => ['n', String(n)]), ...not.map((n) => ['not', String(n)])]);
  if (type !== null) query.set('type', JSON.stringify(type));
  return query.toString();
}

function Picture({ draftId, shown, draft, mending, pick }: ValuesStepProps & { pick: ReturnType<typeof usePick> }) {
  const answer = pick.answer?.picked?.ok ? pick.answer.picked.value : null;
  if (shown.state === 'asked') {
    return (
      <div className="mb-5 border border-rule bg-paper px-5 py-4" role="status">
        <p className="font-medium">The browser is opening the page …</p>
        <p className="text-second">In a few seconds you can point at it here. What can be read without it stands below.</p>
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
  return (
    <PagePicture
      image={`/watches/new/${draftId}/image/${shown.lookId}`}
      width={shown.width}
      height={shown.height}
      boxes={shown.boxes}
      picked={pick.numbers.length > 0 ? pick.numbers : Object.values(mending?.boxes ?? {}).filter((n) => n !== null)}
      left={pick.not}
      label={`The page of ${draft.subject}: point at what to read`}
      onPick={pick.one}
      onWider={() => pick.to(answer?.wider ?? null)}
      onNarrower={() => pick.to(answer?.narrower ?? null)}
    />
  );
}

function Joint({ listing, onTake, onLeave }: { listing: Listing; onTake: () => void; onLeave: () => void }) {
  return (
    <div data-joint>
      <p className="font-serif text-day font-medium">{listing.said}</p>
      <p className="mt-1 text-second">With {listing.fields.map((field) => field.label).join(', ')}.</p>
      <div className="mt-3 flex gap-3">
        <Button weight="strong" onClick={onTake}>
          Read all of them
        </Button>
        <Button onClick={onLeave}>Not these</Button>
      </div>
    </div>
  );
}

const samePlace = (field: Field, candidate: Candidate) => JSON.stringify(field.locators) === JSON.stringify(candidate.locators);

function fieldOf(label: string, type: FieldType, locators: Field['locators'], taken: Field[]): Field {
  const keys = taken.map((field) => field.key);
  return {
    key: freeKey(label, keys),
    label,
    type,
    mode: 'stepwise',
    polarity: type.kind === 'money' ? 'up is good' : 'neither',
    locale: null,
    locators,
  };
}

function Candidates({ draft, candidates, locale, onTake, onChange }: ValuesStepProps) {
  if (candidates.length === 0) {
    return (
      <p className="mt-2 text-second">
        Nothing on this page looks like a price, and it carries no structured data. Point at it, or give a place of your own.
      </p>
    );
  }
  return (
    <div className="max-h-[420px] overflow-y-auto">
      <table className="w-full" data-candidates>
        <thead className="sticky top-0 bg-page">
          <tr>
            <th className="head-cell text-left">Found at</th>
            <th className="head-cell pr-5 text-right">Value</th>
            <th className="head-cell w-16">
              <span className="sr-only">Take it</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {candidates.map((candidate, at) => {
            const taken = draft.fields.find((field) => samePlace(field, candidate));
            return (
              <tr key={at}>
                <td className="cell max-w-0 truncate pr-4" title={candidate.where}>
                  {candidate.label} <span className="ml-1 text-glance text-third">{candidate.where}</span>
                </td>
                <td className="cell w-36 max-w-36 truncate pr-5 text-right font-medium" title={candidate.text}>
                  {formatValue(candidate.value, locale)}
                  {candidate.byLocale ? <span className="block text-glance font-normal text-third">by the page’s language</span> : null}
                </td>
                <td className="cell w-16 text-right">
                  {taken === undefined ? (
                    <button
                      type="button"
                      className="link font-semibold"
                      aria-label={`Take ${candidate.where}`}
                      onClick={() => onTake(fieldOf(candidate.label, candidate.type, candidate.locators, draft.fields), candidate.value, [])}
                    >
                      Take
                    </button>
                  ) : (
                    <button
                      type="button"
                      className="link text-chestnut"
                      onClick={() => onChange({ fields: draft.fields.filter((field) => field !== taken) })}
                    >
                      Leave out
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

function Taken(props: ValuesStepProps) {
  const { draft, onChange } = props;
  if (draft.fields.length === 0) return <p className="mt-2 text-second">Nothing yet. Point at a value, or take one from the list.</p>;
  return (
    <>
      <ul data-taken>
        {draft.fields.map((field) => (
          <TakenField
            key={field.key}
            {...props}
            field={field}
            onField={(change) => onChange({ fields: draft.fields.map((each) => (each === field ? { ...each, ...change } : each)) })}
          />
        ))}
      </ul>
      <button type="button" className="link mt-2 text-glance" onClick={() => onChange({ fields: [...draft.fields, computedField(draft.fields)] })}>
        Compute another from these
      </button>
    </>
  );
}

/** One field that was taken: its present value, and below, how it is read. */
function TakenField({
  draftId,
  draft,
  present,
  volatile,
  locale,
  onChange,
  field,
  onField,
}: ValuesStepProps & { field: Field; onField: (change: Partial<Field>) => void }) {
  // Open from the start where something is still to be said; it must not close while she says it.
  const [openAtFirst] = useState(isUnsaid(field));
  const { type } = field;
  const value = present[field.key];
  const shown = value === undefined ? '' : formatValue(value, locale);
  return (
    <li className="cell py-2">
      <p className="flex items-baseline justify-between gap-3">
        <span className={`truncate font-serif ${type.kind === 'text' ? 'text-head' : 'text-day font-medium'}`}>{shown || '–'}</span>
        <button
          type="button"
          className="link shrink-0 text-glance text-second"
          aria-label={`Leave out ${field.label}`}
          onClick={() => onChange({ fields: draft.fields.filter((each) => each !== field) })}
        >
          Leave out
        </button>
      </p>
      {type.kind === 'text' ? (
        <Masks
          field={{ ...field, type }}
          volatile={volatile}
          onMask={(mask) => onField({ type: { ...type, masks: [...(type.masks ?? []), mask] } })}
        />
      ) : null}
      <details className="mt-0.5" open={openAtFirst}>
        <summary className="cursor-pointer text-glance text-second" aria-label={`How ${field.label} is read`}>
          {howRead(field)}
        </summary>
        <div className="pt-1.5">
          <TypeSettings field={field} others={draft.fields.filter((each) => each !== field)} onChange={onField} />
          {type.kind === 'computed' ? null : (
            <Ways field={field} text={shown} locale={locale} tryAt={`/watches/new/${draftId}/try`} onChange={(locators) => onField({ locators })} />
          )}
        </div>
      </details>
    </li>
  );
}

/** What is still to be said of a field before it can be read. */
function isUnsaid({ type, label }: Field): boolean {
  return label === '' || (type.kind === 'phrase' && type.phrase === '') || (type.kind === 'computed' && type.formula === '');
}

function howRead({ label, type, polarity, locators }: Field): string {
  const good = polarity === 'neither' ? '' : `, ${polarity === 'up is good' ? 'a rise is good' : 'a rise is bad'}`;
  const ways = type.kind === 'computed' ? '' : `, ${locators.length === 1 ? 'one way' : `${locators.length} ways`} of finding it`;
  return `${label || 'unnamed'}: ${kindLabel(type.kind)}${good}${ways}`;
}

/** A field that is worked out from the others. */
export function computedField(fields: Field[]): Field {
  return { ...fieldOf('computed', { kind: 'computed', formula: '' }, [], fields), label: 'computed' };
}

/** The page's words as a whole, to be watched for any change or for one phrase. */
function Words({ draft, words, onChange }: ValuesStepProps) {
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

function Lists({ listings, onRecords }: ValuesStepProps) {
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

function OwnPlace({ draftId, draft, locale, onTake }: ValuesStepProps) {
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
            onTake(fieldOf(value.kind === 'money' ? 'price' : 'value', settled, [locator], draft.fields), value, []);
          },
        }}
      />
    </div>
  );
}

/** The button that leads on, when a step has what it needs. */
export function Onward({ to, onGo, ready }: { to: string; onGo: () => void; ready: boolean }) {
  return (
    <Button weight={ready ? 'strong' : 'plain'} className="mt-6" onClick={onGo}>
      {to}
    </Button>
  );
}
