import { useState } from 'react';
import type { Sense } from '#core/compare/compare';
import type { Wording } from '#core/judge/rule';
import type { RuleDraft } from '#core/plan/rule-draft';
import { checkWords, PLACEHOLDERS } from '#core/tell/wording';
import { SelectField, TextField } from '../../ui/field';

const SENSES: { value: Sense; label: string }[] = [
  { value: 'better', label: 'what is better' },
  { value: 'worse', label: 'what is worse' },
  { value: 'neither', label: 'what is neither' },
];

/** A subject and a line of her own, of each sort of news; what is left empty is said in our words. */
export function OwnWords({
  wording,
  onChange,
}: {
  wording: RuleDraft['wording'];
  onChange: (wording: RuleDraft['wording']) => void;
}) {
  const [sense, setSense] = useState<Sense>('worse');
  const own = wording[sense] ?? {};
  const set = (change: Wording) => onChange({ ...wording, [sense]: { ...own, ...change } });
  return (
    <details open={Object.keys(wording).length > 0}>
      <summary className="cursor-pointer text-glance text-third">Own words of its mail</summary>
      <div className="mt-2 flex flex-col gap-3">
        <SelectField
          label="Of"
          value={sense}
          options={SENSES}
          onChange={(event) => setSense(event.target.value as Sense)}
        />
        <Words label="Subject" value={own.subject ?? ''} most={200} onChange={(subject) => set({ subject })} />
        <Words label="Line" value={own.line ?? ''} most={400} onChange={(line) => set({ line })} />
        <p className="text-glance text-third">
          What can be put in: {PLACEHOLDERS.map((name) => `{${name}}`).join(' ')}
        </p>
      </div>
    </details>
  );
}

function Words({
  label,
  value,
  most,
  onChange,
}: {
  label: string;
  value: string;
  most: number;
  onChange: (value: string) => void;
}) {
  const checked = checkWords(value);
  return (
    <TextField
      label={label}
      placeholder="ours"
      value={value}
      maxLength={most}
      problem={checked.ok ? null : checked.error}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
