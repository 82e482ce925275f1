import type { Candidate } from '#core/read/candidates';
import type { Field } from '#core/read/definition';
import { formatValue } from '#core/value/format';
import { fieldOf } from './field-of';
import type { OneRecordProps } from './one-record-props';

const samePlace = (field: Field, candidate: Candidate) => JSON.stringify(field.locators) === JSON.stringify(candidate.locators);

/** What Shrike found on the page by itself, to take or to leave out. */
export function Candidates({ draft, candidates, locale, onTake, onChange }: OneRecordProps) {
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
