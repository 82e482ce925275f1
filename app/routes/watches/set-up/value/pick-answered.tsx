import type { Field } from '#core/read/definition';
import type { Locator } from '#core/read/locator';
import type { Listing } from '#core/read/listing/listing';
import { typeOfKind } from '#core/read/kinds';
import { Button } from '../../../../ui/button';
import { fieldOf } from './field-of';
import type { OneRecordProps } from './one-record-props';
import { PickPanel } from './pick-panel';
import type { usePassing } from './use-passing';
import type { usePick } from './use-pick';

/** What the server made of the picks: one place, several alike, or why nothing can be read there. */
export function PickAnswered({
  passing,
  ...props
}: OneRecordProps & { pick: ReturnType<typeof usePick>; passing: ReturnType<typeof usePassing> }) {
  const { pick } = props;
  const press = pick.answer?.press ?? null;
  return (
    <>
      <Answer {...props} />
      {press === null ? null : (
        <p className="-mt-4">
          <button
            type="button"
            className="link"
            disabled={passing.busy}
            onClick={() => {
              passing.press(press, false);
              pick.leave();
            }}
          >
            Press “{press.words}” before the page is read
          </button>
        </p>
      )}
    </>
  );
}

function Answer({
  pick,
  draft,
  locale,
  onTake,
  onRecords,
  onChange,
}: OneRecordProps & { pick: ReturnType<typeof usePick> }) {
  const { answer } = pick;
  if (answer === null) return null;
  const refused =
    (answer.picked?.ok === false ? answer.picked.error : null) ??
    (answer.listing?.ok === false ? answer.listing.error : null);
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
        onChange({
          fields: draft.fields.map((field) =>
            field.label === label ? withoutPart(field, picked.candidate.locators) : field,
          ),
        });
        pick.leave();
      }}
      onTake={() => {
        const { candidate } = picked;
        onTake(fieldOf(candidate.label, candidate.type, candidate.locators, draft.fields), candidate.value);
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
    locators: field.locators.map((each) =>
      each.way === 'css' ? { ...each, without: [...(each.without ?? []), selector] } : each,
    ),
  };
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
