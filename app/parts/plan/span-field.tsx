import type { SpanDraft } from '#core/judge/draft/span';
import { SelectField, TextField } from '../../ui/field';

/** What is wrong with a field is said once something stands in it. */
export const shownProblem = (text: string, problem: string | null | undefined) => (text.trim() === '' ? null : problem);

const SPANS: { value: SpanDraft['unit']; label: string }[] = [
  { value: 'minute', label: 'minutes' },
  { value: 'hour', label: 'hours' },
  { value: 'day', label: 'days' },
];

/** A length of time. */
export function Span({
  label,
  span,
  problem,
  onChange,
}: {
  label: string;
  span: SpanDraft;
  problem?: string | null;
  onChange: (span: SpanDraft) => void;
}) {
  return (
    <div className="flex items-start gap-4">
      <TextField
        label={label}
        inputMode="decimal"
        value={span.count}
        onChange={(event) => onChange({ ...span, count: event.target.value })}
        problem={shownProblem(span.count, problem)}
      />
      <SelectField
        label="counted in"
        value={span.unit}
        options={SPANS}
        onChange={(event) => onChange({ ...span, unit: event.target.value as SpanDraft['unit'] })}
      />
    </div>
  );
}
