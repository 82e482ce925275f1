import type { Listing } from '#core/read/listing/listing';
import { Button } from '../../../../ui/button';
import { Section } from '../../../../ui/page';
import { useReader } from '../../../shell/frame/reader';
import { Onward } from '../onward';
import type { StepProps } from '../step-props';
import { OneRecord } from './one-record';
import { RecordsStep } from './records';
import { TryIt } from './try-it';

/** The link from page to value: one record or many, and the proof that it is read right. */
export function ValueStep({ page, draft, complete, onStep }: StepProps) {
  const { locale } = useReader();
  const readAll = (listing: Listing) =>
    draft.change({
      records: listing.records,
      fields: listing.fields,
      identity: listing.identity,
      names: listing.names,
      variant: null,
      chosen: null,
      leftOut: [],
      guards: [],
    });
  const shared = {
    draftId: page.id,
    draft: draft.plan,
    listings: page.listings,
    locale,
    onChange: draft.change,
    onRecords: readAll,
  };
  return (
    <>
      {draft.plan.records.from !== 'page' ? (
        <RecordsStep
          {...shared}
          preview={page.preview ?? { count: 0, page: 0, size: 1, rows: [], problems: [], parts: [] }}
          pending={draft.keptAt === null || page.preview === null}
          isPage={page.isPage}
          shown={page.shown}
          rows={page.rows}
          mending={page.mending}
          onPage={() =>
            draft.change({
              records: { from: 'page' },
              fields: [],
              identity: [],
              variant: null,
              chosen: null,
              leftOut: [],
              guards: [],
              names: undefined,
            })
          }
        />
      ) : page.isPage ? (
        <OneRecord
          {...shared}
          candidates={page.candidates}
          facts={page.facts}
          shown={page.shown}
          wall={page.wall}
          taken={page.taken}
          ofMany={page.ofMany}
          present={draft.present}
          mending={page.mending}
          volatile={page.volatile}
          words={page.words}
          onTake={draft.take}
        />
      ) : (
        <Found listings={page.listings} onRecords={readAll} />
      )}
      {draft.plan.fields.length === 0 ? null : <TryIt trials={page.trials} locale={locale} />}
      <Onward
        to="On to the rule"
        ready={complete.ok || complete.error.value === undefined}
        onGo={() => onStep('Rule')}
      />
    </>
  );
}

/** What a data source holds, to choose from. */
function Found({ listings, onRecords }: { listings: Listing[]; onRecords: (listing: Listing) => void }) {
  if (listings.length === 0)
    return (
      <p className="text-second">Nothing in it looks like records. Check the address and the request, under Source.</p>
    );
  return (
    <Section title="What is in it" className="max-w-3xl">
      <ul>
        {listings.map((listing) => (
          <li key={JSON.stringify(listing.records)} className="cell flex items-baseline justify-between gap-4">
            <span className="min-w-0">
              <span className="font-medium">{listing.said}</span>
              <span className="block truncate text-glance text-third">
                {listing.fields.map((field) => field.label).join(', ')}
              </span>
            </span>
            <Button aria-label={`Read ${listing.said}`} onClick={() => onRecords(listing)}>
              Read these
            </Button>
          </li>
        ))}
      </ul>
    </Section>
  );
}
