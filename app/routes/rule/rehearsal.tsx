import { useState } from 'react';
import { describeReason } from '#core/judge/reason';
import { rehearseCourse, type RehearsedReading } from '#core/judge/rehearse';
import { ownFields, type RuleDefinition } from '#core/judge/rule';
import type { PresentValues } from '#core/plan/rule-draft';
import type { Field } from '#core/read/definition';
import { parseLimit } from '#core/value/parse';
import { formatValue } from '#core/value/format';
import { ABSENT, isMeasure, type Value } from '#core/value/value';
import { rehearsedMail } from '../../parts/plan/rehearsed-mail';
import { Button } from '../../ui/button';
import { TextField } from '../../ui/field';
import { Section } from '../../ui/page';
import { useReader } from '../shell/reader';

interface RehearsalProps {
  fields: Field[];
  rule: RuleDefinition | null;
  present: PresentValues;
  intervalMs: number;
  subject: string;
  site: string;
  page: string;
  labelOf: (key: string) => string;
}

const MOST_STEPS = 30;

/** Pretended values, run down the very steps that readings are judged by; nothing is stored and nothing is sent. */
export function Rehearsal(props: RehearsalProps) {
  const { rule, fields, present, intervalMs } = props;
  const { place } = useReader();
  const field = fields.find(({ key }) => present[key] !== undefined) ?? fields[0];
  const [course, setCourse] = useState('');
  const [run, setRun] = useState<string | null>(null);
  if (rule === null || field === undefined) return null;
  const steps = run === null ? null : stepsOf(run, rule, props, place.locale);
  const problem = typeof steps === 'string' ? steps : null;
  const done =
    steps === null || typeof steps === 'string' ? [] : rehearseCourse(rule, steps, { intervalMs, savedAt: 0 }, (steps.length - 1) * intervalMs);
  const told = done.find((reading) => reading.told);
  return (
    <Section title="A rehearsal" className="mt-6">
      <form
        className="mt-1 flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          setRun(course);
        }}
      >
        <TextField
          label={`Values of ${props.labelOf(aboutOf(rule, field))}, one look after another`}
          hint="as 25.00, 21.00, 20.50; “absent” for none"
          className="grow"
          value={course}
          onChange={(event) => setCourse(event.target.value)}
          problem={problem}
        />
        <Button type="submit" className="mb-5" disabled={course.trim() === ''}>
          Rehearse
        </Button>
      </form>
      {done.length === 0 ? null : (
        <ol data-rehearsal>
          {done.map((reading, at) => (
            <li key={at} className="cell grid grid-cols-[2rem_7rem_minmax(0,1fr)] gap-3">
              <span className="text-third">{at + 1}</span>
              <span className="text-right">{formatValue(reading.value, place.locale)}</span>
              <span className={reading.told ? 'font-medium' : 'text-second'}>
                {reading.told ? 'told: ' : ''}
                {describeReason(reading.reason, place)}
              </span>
            </li>
          ))}
        </ol>
      )}
      {told === undefined ? null : <Mail {...props} rule={rule} told={told} />}
    </Section>
  );
}

/** The field whose values are pretended: the first that the rule asks. */
const aboutOf = (rule: RuleDefinition, otherwise: Field): string => ownFields(rule)[0] ?? otherwise.key;

/** The course as it was typed: each value with those of the other fields as they are now; or what cannot be read. */
function stepsOf(typed: string, rule: RuleDefinition, { fields, present, intervalMs }: RehearsalProps, locale: string) {
  const known = Object.fromEntries(Object.entries(present).filter((each): each is [string, Value] => each[1] !== undefined));
  const key = aboutOf(rule, fields[0] ?? ({ key: '' } as Field));
  const like = known[key];
  const parts = typed.split(/[;,]\s+|;/).map((part) => part.trim()).filter((part) => part !== ''); // prettier-ignore
  if (parts.length > MOST_STEPS) return `At most ${MOST_STEPS} values.`;
  const values: Value[] = [];
  for (const part of parts) {
    const value = pretended(part, like, locale);
    if (value === null) return `“${part}” is no value of this field.`;
    values.push(value);
  }
  return values.map((value, at) => ({ at: at * intervalMs, values: { ...known, [key]: value } }));
}

function pretended(text: string, like: Value | undefined, locale: string): Value | null {
  if (/^absent$/i.test(text)) return ABSENT;
  if (like === undefined) return null;
  if (isMeasure(like)) {
    const amount = parseLimit(text, locale);
    return amount.ok ? { ...like, amount: amount.value } : null;
  }
  switch (like.kind) {
    case 'text':
      return { kind: 'text', text };
    case 'state':
      return { kind: 'state', state: text };
    case 'flag':
      return /^(yes|no)$/i.test(text) ? { kind: 'flag', is: /^yes$/i.test(text) } : null;
    case 'grade':
      return like.scale.includes(text) ? { ...like, grade: text } : null;
    default:
      return null;
  }
}

/** The mail that would come of it. */
function Mail({ rule, told, fields, subject, site, page, intervalMs }: RehearsalProps & { rule: RuleDefinition; told: RehearsedReading }) {
  const { place, now } = useReader();
  const mail = rehearsedMail({ subject, site, page, fields, rule, told, report: 'A rehearsal', readerName: 'reader', place, now, apart: intervalMs });
  return (
    <details className="mt-3">
      <summary className="cursor-pointer">
        <span className="text-third">The mail: </span>
        <span className="font-medium">{mail.subject}</span>
      </summary>
      <iframe title="The mail as it would arrive" sandbox="" srcDoc={mail.html} className="mt-2 h-[420px] w-full border border-rule bg-white" />
    </details>
  );
}
