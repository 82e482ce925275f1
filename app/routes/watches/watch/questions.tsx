import { useState } from 'react';
import { Form, Link } from 'react-router';
import { namePart } from '#core/read/frame/changes';
import { doubtsIn } from '#core/read/frame/accept';
import { saysNow } from '#core/tell/question';
import { formatValue } from '#core/value/format';
import { formatRecent } from '#core/when/format';
import { Button } from '../../../ui/button';
import { Tick } from '../../../ui/field';
import { Table } from '../../../ui/table';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { useReader } from '../../shell/frame/reader';
import { Cutting } from './before-after';
import type { QuestionShown } from './questions.server';
import type { Frame, FrameChange } from '#core/read/frame/types';

/**
 * What is asked before anything is called news: what was found, how it stood before and how it stands now, and what it
 * is.
 */
export function Questions({ watch, questions, count }: { watch: WatchNow; questions: QuestionShown[]; count: number }) {
  if (questions.length === 0) return null;
  return (
    <div data-questions>
      {questions.map((question) => (
        <Asked key={question.id} watch={watch} question={question} />
      ))}
      {count > questions.length ? (
        <p className="mb-4 text-glance text-third">
          {count - questions.length} more are asked when these are answered.
        </p>
      ) : null}
    </div>
  );
}

function Asked({ watch, question }: { watch: WatchNow; question: QuestionShown }) {
  const { place, locale, now } = useReader();
  const field = watch.definition.fields.find(({ key }) => key === question.field);
  const label = field?.label ?? question.field;
  const value = formatValue(question.value, locale);
  const { from, ...rows } = watch.definition.records;
  const around = from === 'rows' && 'around' in rows ? rows.around : undefined;
  const before = question.around ? around?.[0] : field?.frames?.[0];
  return (
    <section
      className="mb-4 border-t-2 border-chestnut pt-3"
      aria-label={`Is ${value} still the ${label} you follow?`}
      data-question
    >
      <div className="flex flex-wrap items-baseline justify-between gap-x-6 gap-y-1">
        <h2 className="font-serif text-lead font-medium">
          Is <strong className="font-semibold">{value}</strong> still the {label} you follow?{' '}
          <span className="text-chestnut">{saysNow(question.changes)}</span>
        </h2>
        <p className="text-glance text-third">
          In question since {formatRecent(question.askedAt, now, place)}; nobody was told of a change
          {question.records > 1 ? `; asked of ${question.records} records, this is ${question.identity}` : ''}
        </p>
      </div>
      <div className="mt-3 grid gap-6 sm:grid-cols-2">
        <Place
          watch={watch}
          seen={question.pictures.before}
          name="Last good"
          frame={before ?? null}
          value={question.was === null ? null : formatValue(question.was, locale)}
          said={question.was === null ? 'Before' : `Last good: ${formatValue(question.was, locale)}; it stands, stale`}
        />
        <Place
          watch={watch}
          seen={question.pictures.now}
          name="In question"
          frame={question.frame ?? before ?? null}
          value={value}
          said={`In question, ${formatRecent(question.seenAt, now, place)}`}
          strong
        />
      </div>
      <Compared changes={question.changes} before={before ?? null} />
      <Answers watch={watch} question={question} label={label} />
    </section>
  );
}

interface PlaceProps {
  watch: WatchNow;
  seen: QuestionShown['pictures']['now'];
  name: string;
  frame: Frame | null;
  value: string | null;
  said: string;
  strong?: boolean;
}

/** The place on the picture of the page; where there is none, what stands around the value, set as it is read. */
function Place({ watch, seen, name, frame, value, said, strong = false }: PlaceProps) {
  if (seen !== null) return <Cutting watchId={watch.id} seen={seen} name={name} />;
  const line = 'text-second';
  return (
    <figure className="m-0 min-w-0">
      <div className="min-h-32 border border-rule bg-page px-5 py-3.5 font-serif" data-place>
        {frame === null ? null : (
          <>
            <p className="truncate font-semibold">{frame.headings.at(-1) ?? frame.title ?? ''}</p>
            {frame.row.length + frame.column.length > 0 ? (
              <p className={`truncate ${line}`}>{[...frame.row, ...frame.column].join(' · ')}</p>
            ) : frame.labelled ? (
              <p className={`truncate ${line}`}>{frame.above}</p>
            ) : null}
          </>
        )}
        <p className="my-1.5 flex flex-wrap items-baseline gap-x-2">
          {frame === null || frame.before === '' ? null : <span className={line}>{frame.before}</span>}
          <span className={`border-2 px-1.5 text-headline font-semibold ${strong ? 'border-chestnut' : 'border-ink'}`}>
            {value ?? 'not read'}
          </span>
          {frame === null ? null : <span className={line}>{[frame.own, frame.after].filter(Boolean).join(' ')}</span>}
        </p>
        {frame?.under == null ? null : <p className={`truncate ${line}`}>{frame.under}</p>}
      </div>
      <figcaption className="mt-1 text-glance text-third">{said}</figcaption>
    </figure>
  );
}

interface Row {
  name: string;
  was: string | null;
  is: string | null;
  changed: boolean;
}

/** What stands around it, before and now: what changed first, then what did not. */
function Compared({ changes, before }: { changes: FrameChange[]; before: Frame | null }) {
  const rows: Row[] = [
    ...changes.map((change) => ({ name: namePart(change), was: change.was, is: change.is, changed: true })),
    ...(before === null || changes.some(({ part }) => part === 'heading' || part === 'title')
      ? []
      : [{ name: 'under the heading', was: before.headings.join(' › ') || before.title, is: null, changed: false }]),
  ];
  return (
    <Table
      name="frame"
      className="mt-3"
      rows={rows}
      keyOf={({ name, was, is }) => `${name} ${was ?? ''} ${is ?? ''}`}
      columns={[
        {
          head: 'What stands around it',
          className: 'w-48',
          cell: ({ name }) => <span className="text-glance text-third">{name}</span>,
        },
        {
          head: 'Before',
          cell: ({ was, changed }) => <span className={changed ? 'text-third' : ''}>{was ?? 'nothing'}</span>,
        },
        {
          head: 'Now',
          cell: ({ is, changed }) =>
            changed ? <strong className="font-semibold text-chestnut">{is ?? 'nothing'}</strong> : 'the same',
        },
      ]}
    />
  );
}

function Answers({ watch, question, label }: { watch: WatchNow; question: QuestionShown; label: string }) {
  const { locale } = useReader();
  const [always, setAlways] = useState(false);
  const [elsewhere, setElsewhere] = useState(true);
  const others = question.elsewhere.length;
  const doubtful = doubtsIn(question.changes).length > 0;
  const { instead } = question;
  return (
    <Form method="post" className="mt-3.5">
      <input type="hidden" name="question" value={question.id} />
      <div className="flex flex-wrap items-center gap-3">
        {instead === null ? null : (
          <Button type="submit" name="intent" value="instead" weight="strong">
            No, it is {formatValue(instead, locale)}, elsewhere on the page
          </Button>
        )}
        <Button type="submit" name="intent" value="yes" weight="plain">
          Yes, from here on
        </Button>
        <Button type="submit" name="intent" value="no">
          {instead === null ? 'No: point at it' : 'Neither: point at it'}
        </Button>
        {doubtful ? (
          <Tick checked={always} onChange={setAlways}>
            such moves of this {label} happen; do not ask again
          </Tick>
        ) : null}
        {others === 0 ? null : (
          <Tick checked={elsewhere} onChange={setElsewhere}>
            the same for {others === 1 ? 'one other watch' : `${others} other watches`} at {watch.site} with this
            question
          </Tick>
        )}
        {always ? <input type="hidden" name="always" value="yes" /> : null}
        {elsewhere && others > 0 ? <input type="hidden" name="elsewhere" value="yes" /> : null}
      </div>
      <p className="mt-2 text-glance text-third">
        Yes runs it again at once, and what is read is compared with the last good value. No keeps that, and opens the
        page for you to point at the {label}.
        {others === 0 ? null : (
          <>
            {' '}
            The others:{' '}
            {question.elsewhere.slice(0, 3).map((other, at) => (
              <span key={other.watchId}>
                {at === 0 ? '' : ', '}
                <Link className="link" to={`/watches/${other.watchId}`}>
                  {other.subject}
                </Link>
              </span>
            ))}
            {others > 3 ? ` and ${others - 3} more` : ''}.
          </>
        )}
      </p>
    </Form>
  );
}
