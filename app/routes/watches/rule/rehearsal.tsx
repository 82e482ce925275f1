import type { WatchId } from '#core/id';
import { useMemo, useState } from 'react';
import { useFetcher } from 'react-router';
import { isRelated, type IsRelated } from '#core/judge/related';
import { PastAround } from '#core/judge/past';
import { describeReason } from '#core/judge/reason';
import { rehearseCourse, type RehearsedTurn } from '#core/judge/rehearse';
import { isAbout, isWide, ownFields, type RuleDefinition } from '#core/judge/rule';
import { courseOf, MOST_RUNS, stopsOf, type PretendedRun, type PretendedReading } from '#core/plan/pretended';
import { labelOf } from '#core/plan/plan';
import type { RuleDraft } from '#core/plan/rule-draft';
import { withNumber } from '#core/read/all-records';
import type { Field, WatchDefinition } from '#core/read/definition';
import { formatValue } from '#core/value/format';
import type { ReachedBy } from '#core/tell/reach';
import { formatInstant } from '#core/when/format';
import { readLocal, writeLocal } from '#core/when/wall-clock';
import { rehearsedMail } from '../../../parts/plan/rehearsed-mail';
import { Button } from '../../../ui/button';
import { TimestampField } from '../../../ui/date-field';
import { CellField, SelectField } from '../../../ui/field';
import { Section } from '../../../ui/page';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { Pretending } from './pretended.server';
import type { action } from './rehearse';
import { pastAddress, usePast } from './use-backtest';
import { MailSheet } from '../../../ui/mail-sheet';

interface RehearsalProps {
  rule: RuleDefinition | null;
  draft: RuleDraft;
  records: Pretending[];
  intervalMs: number;
  watch: { id: WatchId; definition: WatchDefinition; site: string; address: string };
  readers: (ReachedBy & { email: string })[];
}

/** So many records are offered at most: those that the server sends. */
const MOST_RECORDS = 50;

/** So many fields of a rule have a column of their own. */
const MOST_FIELDS = 4;

/**
 * Pretended looks, run down the whole chain by the very steps that readings are judged by; nothing is stored and
 * nothing is sent.
 */
export function Rehearsal({ rule, records, ...rest }: RehearsalProps) {
  const [chosen, setChosen] = useState('');
  const offered = records.filter((each) => rule !== null && isAbout(rule, each));
  const record = offered.find(({ identity }) => identity === chosen) ?? offered[0];
  if (rule === null || record === undefined) return null;
  return (
    <Section title="A rehearsal" className="mt-6" aside="pretended values: nothing is stored, nothing is sent">
      {offered.length < 2 ? null : (
        <SelectField
          label={offered.length < MOST_RECORDS ? 'Of' : `Of (the first ${MOST_RECORDS} records)`}
          className="mt-1 w-64"
          value={record.identity}
          options={offered.map(({ identity: value, name }) => ({ value, label: name }))}
          onChange={(event) => setChosen(event.target.value)}
        />
      )}
      <Course key={record.identity} {...rest} rule={rule} record={record} />
    </Section>
  );
}

type CourseProps = Omit<RehearsalProps, 'rule' | 'records'> & { rule: RuleDefinition; record: Pretending };

function Course(props: CourseProps) {
  const { rule, record, intervalMs, watch } = props;
  const { place, now } = useReader();
  const fields = withNumber(watch.definition);
  const asked = fieldsOf(rule, fields);
  const [looks, setLooks] = useState<PretendedRun[]>(() =>
    [0, 1].map((n) => ({ at: writeLocal(now + n * intervalMs, place.zone), values: {} })),
  );
  const say = (at: number, look: PretendedRun) => setLooks((known) => known.map((each, n) => (n === at ? look : each)));
  const course = courseOf(looks, record.values, place);
  const beside = useBeside(watch.id, rule, record.identity);
  const turns = course.ok ? rehearseCourse(rule, course.value, intervalMs, beside) : [];
  const told = turns.find((turn) => turn.told);
  return (
    <>
      <Table
        name="rehearsal"
        columns={columnsOf(props, {
          asked,
          looks,
          course: course.ok ? course.value : [],
          say,
          leaveOut: (at) => setLooks(looks.filter((_, n) => n !== at)),
        })}
        rows={rowsOf(looks, turns)}
        keyOf={({ key }) => key}
      />
      <p className="flex items-baseline gap-4 pt-2">
        <Button
          disabled={looks.length >= MOST_RUNS}
          onClick={() => setLooks([...looks, { at: laterThan(looks, intervalMs, place.zone), values: {} }])}
        >
          Add a run
        </Button>
        {course.ok ? (
          <span className="text-glance text-third">
            What is left empty stays as it was; “absent” says that there is no value.
            {ownFields(rule).length > MOST_FIELDS
              ? ` Of the fields that it asks the first ${MOST_FIELDS} are pretended, the others stay as they are.`
              : ''}
          </span>
        ) : (
          <span role="alert" className="font-medium text-chestnut">
            {course.error.field === null ? '' : `${labelOf(fields, course.error.field)}: `}
            {course.error.said}
          </span>
        )}
      </p>
      {told === undefined ? null : <Ends {...props} looks={looks} told={told} />}
    </>
  );
}

/** What stands beside a record now, where a rule asks that; nothing before it has come. */
function useBeside(watch: WatchId, rule: RuleDefinition, identity: string): IsRelated | undefined {
  const { now } = useReader();
  const { past } = usePast(isWide({ when: rule.when }) ? pastAddress(watch, rule) : null);
  return useMemo(
    () => (past === null ? undefined : isRelated(rule, new PastAround(past.histories, past.beside).at(now), identity)),
    [past, rule, identity, now],
  );
}

const fieldsOf = (rule: RuleDefinition, fields: Field[]): Field[] => {
  const asked = ownFields(rule).slice(0, MOST_FIELDS);
  return fields.filter(({ key }, at) => (asked.length === 0 ? at === 0 : asked.includes(key)));
};

/** The look after the last one; where that says no time, it is for her to say. */
function laterThan(looks: PretendedRun[], intervalMs: number, zone: string): string {
  const last = readLocal(looks.at(-1)?.at ?? '', zone);
  return last === null ? '' : writeLocal(last + intervalMs, zone);
}

/** A look that is typed, or what the clock did between two. */
interface Row {
  key: string;
  look: number | null;
  turn: RehearsedTurn | undefined;
}

function rowsOf(looks: PretendedRun[], turns: RehearsedTurn[]): Row[] {
  let look = 0;
  const judged = turns.map((turn, at): Row =>
    turn.by === 'clock' ? { key: `clock ${at}`, look: null, turn } : { key: `look ${look}`, look: look++, turn },
  );
  const rest = looks.slice(look).map((_, at): Row => ({ key: `look ${look + at}`, look: look + at, turn: undefined }));
  return [...judged, ...rest];
}

interface Said {
  asked: Field[];
  looks: PretendedRun[];
  course: PretendedReading[];
  say: (at: number, look: PretendedRun) => void;
  leaveOut: (at: number) => void;
}

function columnsOf({ watch, record }: CourseProps, { asked, looks, course, say, leaveOut }: Said): Column<Row>[] {
  return [
    {
      head: 'When',
      className: 'w-60',
      cell: ({ look, turn }) => <When look={look} turn={turn} looks={looks} say={say} />,
    },
    ...asked.map(({ key }): Column<Row> => ({
      head: labelOf(watch.definition.fields, key),
      className: 'w-28',
      cell: ({ look }) =>
        look === null ? null : (
          <Pretended
            field={key}
            look={look}
            looks={looks}
            course={course}
            present={record.values[key]}
            say={say}
            label={`${labelOf(watch.definition.fields, key)} at run ${look + 1}`}
          />
        ),
    })),
    { head: 'What comes of it', cell: ({ turn }) => <Outcome turn={turn} /> },
    {
      head: <span className="sr-only">Leave out</span>,
      side: 'right',
      cell: ({ look }) =>
        look === null || looks.length < 2 ? null : (
          <button
            type="button"
            className="link whitespace-nowrap text-glance text-third"
            aria-label={`Leave out run ${look + 1}`}
            onClick={() => leaveOut(look)}
          >
            leave out
          </button>
        ),
    },
  ];
}

type WhenProps = Pick<Row, 'look' | 'turn'> & {
  looks: PretendedRun[];
  say: (at: number, look: PretendedRun) => void;
};

function When({ look, turn, looks, say }: WhenProps) {
  const { place } = useReader();
  const typed = look === null ? undefined : looks[look];
  if (look === null || typed === undefined)
    return (
      <span className="text-third">
        {turn === undefined ? '' : `${formatInstant(turn.at, 'moment', place)}, by the clock`}
      </span>
    );
  return (
    <TimestampField
      hideLabel
      label={`The day of run ${look + 1}`}
      timeLabel={`The time of run ${look + 1}`}
      value={typed.at}
      onChange={(at) => say(look, { ...typed, at })}
    />
  );
}

interface PretendedProps extends Omit<WhenProps, 'look' | 'turn'> {
  field: string;
  label: string;
  look: number;
  course: PretendedReading[];
  present: PretendedReading['values'][string] | undefined;
}

function Pretended({ field, label, look, looks, course, present, say }: PretendedProps) {
  const { place } = useReader();
  const typed = looks[look];
  if (typed === undefined) return null;
  const stands = course[look - 1]?.values[field] ?? present;
  return (
    <CellField
      aria-label={label}
      placeholder={stands === undefined ? '' : formatValue(stands, place.locale, place.zone)}
      value={typed.values[field] ?? ''}
      maxLength={2_000}
      onChange={(event) => say(look, { ...typed, values: { ...typed.values, [field]: event.target.value } })}
    />
  );
}

function Outcome({ turn }: { turn: RehearsedTurn | undefined }) {
  const { place } = useReader();
  if (turn === undefined) return null;
  return (
    <span className={turn.told ? 'font-medium' : 'text-second'}>
      {turn.told ? 'told: ' : ''}
      {describeReason(turn.reason, place)}
    </span>
  );
}

/** Where what is told goes: who would hear of it, what keeps it from them, and the mail. */
function Ends({
  rule,
  draft,
  record,
  readers,
  looks,
  told,
  watch,
  intervalMs,
}: CourseProps & { looks: PretendedRun[]; told: RehearsedTurn }) {
  const { place } = useReader();
  const { subject, fields, records } = watch.definition;
  const fetcher = useFetcher<typeof action>();
  const stops = stopsOf(
    rule,
    { identity: record.identity, name: record.name, labels: {}, fieldOf: (key) => told.values[key] },
    readers,
    told.at,
  );
  const hear = readers.filter(({ kept }) => kept === null).map(({ name }) => name);
  const of = {
    subject: records.from === 'page' ? subject : record.name,
    site: watch.site,
    page: watch.address,
    fields,
    rule,
    told,
  };
  const mail = rehearsedMail({
    ...of,
    report: 'A rehearsal',
    readerName: hear[0] ?? 'reader',
    place,
    now: told.at,
    apart: intervalMs,
  });
  return (
    <div className="pt-3" data-ends>
      <p>
        {hear.length === 0
          ? 'Nobody would hear of it.'
          : `It would go to ${new Intl.ListFormat(place.locale).format(hear)}, at once.`}
      </p>
      {stops.map((stop) => (
        <p key={stop} className="font-medium text-chestnut">
          {stop}
        </p>
      ))}
      <details className="mt-2">
        <summary className="cursor-pointer">
          <span className="text-third">The mail: </span>
          <span className="font-medium">{mail.subject}</span>
        </summary>
        <MailSheet
          title="The mail as it would arrive"
          html={mail.html}
          leads={false}
          className="mt-2 h-[420px] w-full"
        />
      </details>
      <fetcher.Form method="post" action={`/watches/${watch.id}/rehearsal`} className="flex items-baseline gap-3 pt-2">
        <input type="hidden" name="rule" value={JSON.stringify(draft)} />
        <input type="hidden" name="record" value={record.identity} />
        <input type="hidden" name="looks" value={JSON.stringify(looks)} />
        <Button type="submit" disabled={fetcher.state !== 'idle'}>
          Send this mail to me alone
        </Button>
        <span role="status" className={fetcher.data?.problem == null ? 'text-second' : 'font-medium text-chestnut'}>
          {fetcher.state === 'idle' ? (fetcher.data?.problem ?? fetcher.data?.said) : 'Sending …'}
        </span>
      </fetcher.Form>
    </div>
  );
}
