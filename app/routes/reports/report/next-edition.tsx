import { useState } from 'react';
import { capital, countOf } from '#core/words';
import { SelectField } from '../../../ui/field';
import { MailSheet } from '../../../ui/mail-sheet';
import { Section } from '../../../ui/page';
import type { Previewed } from './preview.server';

const WIDTHS = { phone: 'mx-auto w-[360px] max-w-full', desk: 'w-full' } as const;
type Form = keyof typeof WIDTHS | 'plain';

/** The next edition as it would come if it were cut now. */
export function NextEdition({
  shown,
  pending,
  onPart,
}: {
  shown: Previewed | null;
  pending: boolean;
  onPart: (part: number) => void;
}) {
  const [form, setForm] = useState<Form>('desk');
  const forms = (
    <span className="flex gap-4">
      {(['phone', 'desk', 'plain'] as const).map((each) => (
        <button
          key={each}
          type="button"
          aria-pressed={form === each}
          onClick={() => setForm(each)}
          className="border-b-2 border-transparent text-third hover:text-ink aria-pressed:border-chestnut aria-pressed:font-semibold aria-pressed:text-ink"
        >
          {each}
        </button>
      ))}
    </span>
  );
  return (
    <Section title="The next edition, as it stands" aside={forms}>
      {shown === null ? null : (
        <div aria-busy={pending} className={pending ? 'opacity-85' : ''} data-next-edition>
          {shown.parts.length < 2 ? null : (
            <SelectField
              label={`Next time it would be ${shown.parts.length} editions`}
              value={String(shown.part)}
              options={shown.parts.map(({ name, lines }, place) => ({
                value: String(place),
                label: `${capital(name) || 'The rest'}, ${countOf(lines, 'line')}`,
              }))}
              onChange={(event) => onPart(Number(event.target.value))}
            />
          )}
          <p className="truncate pb-1.5 text-second" title={shown.subject}>
            {shown.subject}
          </p>
          {form === 'plain' ? (
            <pre className="max-h-[max(35rem,calc(100dvh-15rem))] overflow-auto border border-rule p-4 font-mono text-glance whitespace-pre-wrap">
              {shown.text}
            </pre>
          ) : (
            <MailSheet
              title="The next edition"
              html={shown.html}
              className={`h-[max(35rem,calc(100dvh-15rem))] ${WIDTHS[form]}`}
            />
          )}
        </div>
      )}
    </Section>
  );
}
