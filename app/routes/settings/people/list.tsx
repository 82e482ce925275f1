import type { ListId, PersonId } from '#core/id';
import { useState } from 'react';
import { data, Link, useFetcher } from 'react-router';
import { MOST_PASTED, readAddresses } from '#core/plan/addresses';
import { formatRecent } from '#core/when/format';
import { capital, countOf, listed } from '#core/words';
import { sanitiseText } from '#core/value/sanitise';
import { inTransaction } from '#server/db/base/pool';
import {
  addReader,
  allLists,
  keepList,
  listReaders,
  readerNames,
  removeList,
  type ListNow,
  type ReaderNow,
} from '#server/db/person/readers';
import { askToConfirm } from '#server/pipeline/ask';
import { readForm, textIn, writtenIn } from '../../../form.server';
import { readId } from '../../../ids.server';
import { hoursWords } from '../../../parts/hours';
import { AsSeen, mayKeep, MEANWHILE } from '../../../parts/as-seen';
import { useLive } from '../../../parts/live';
import { keepingServices, services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { TextField, Tick } from '../../../ui/field';
import { PageHead, Section } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Popover } from '../../../ui/popover';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/list';
import { Reach } from './reach';

const EVERY_MS = 5_000;
const PAGE = 100;
const MOST_LISTS = 200;
const MOST_NAMED = 1_000;
const LONGEST_NAME = 100;

export const meta: Route.MetaFunction = () => [{ title: 'People · Shrike' }];

export async function loader({ request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'person' });
  const asked = new URL(request.url).searchParams;
  const name = sanitiseText(asked.get('after') ?? '').slice(0, LONGEST_NAME);
  const after = name === '' ? null : { name, id: readId<PersonId>(asked.get('id')) };
  const { pool } = services();
  const [found, lists, everybody] = await Promise.all([
    listReaders(pool, after, PAGE + 1),
    allLists(pool, MOST_LISTS),
    readerNames(pool, MOST_NAMED),
  ]);
  const people = found.slice(0, PAGE);
  const last = people.at(-1);
  return {
    people,
    lists,
    everybody,
    begun: after !== null,
    next: found.length > PAGE && last !== undefined ? { after: last.name, id: String(last.id) } : null,
  };
}

/** What came of a form: what is wrong with it, or what was done. */
interface Answer {
  problem: string | null;
  said: string | null;
}

const problem = (sentence: string): Answer => ({ problem: sentence, said: null });

export async function action({ request, context }: Route.ActionArgs): Promise<Answer> {
  const person = asks(context, 'change', { kind: 'person' });
  const form = await readForm(request);
  const { pool, clock } = services();
  switch (form.get('intent')) {
    case 'add':
      return addPasted(writtenIn(form, 'people'), person);
    case 'list':
      return keepSaidList(form);
    case 'remove list':
      await inTransaction(pool, (db) => removeList(db, readId<ListId>(form.get('list')), clock()));
      return { problem: null, said: 'The list is gone.' };
    default:
      throw data('This form asks for nothing that can be done here.', { status: 400 });
  }
}

/** Adds all of them or none: what is no address is said, and nothing is lost. Each is asked to confirm. */
async function addPasted(text: string, by: { name: string; locale: string; zone: string }): Promise<Answer> {
  const { people, strange } = readAddresses(text);
  if (strange.length > 0)
    return problem(
      `${listed(
        strange.map((each) => `“${each}”`),
        3,
      )} ${strange.length === 1 ? 'is no mail address' : 'are no mail addresses'}, or more than ${MOST_PASTED} were given. Nobody was added.`,
    );
  if (people.length === 0) return problem('Write at least one address.');
  const keeping = await keepingServices();
  const { clock, signals } = services();
  const done = await inTransaction(keeping.pool, async (db) => {
    const added: string[] = [];
    let asked = 0;
    for (const each of people) {
      const id = await addReader(db, each, by);
      if (id === null) continue;
      added.push(each.name);
      if ((await askToConfirm(keeping, db, id, by, clock())).ok) asked += 1;
    }
    return { added, asked };
  });
  signals.say('outbox');
  return { problem: null, said: addedWords(done.added, done.asked, people.length) };
}

function addedWords(added: string[], asked: number, given: number): string {
  if (added.length === 0)
    return given === 1 ? 'This address is known already.' : 'All of these addresses are known already.';
  const known = given - added.length;
  const told =
    asked === added.length
      ? 'Each was asked to confirm the address'
      : 'Nobody could be asked to confirm: set SHRIKE_SECRET_KEY, which seals such links';
  return (
    `${listed(added, 5)} ${added.length === 1 ? 'was' : 'were'} added. ` +
    `${told}.${known === 0 ? '' : ` ${capital(countOf(known, 'address', 'addresses'))} ${known === 1 ? 'was' : 'were'} known already.`}`
  );
}

const LIST_PROBLEMS = {
  gone: 'This list is gone. Load the page again to see what there is.',
  'name taken': 'There is another list of this name. Choose one that tells them apart.',
  meanwhile: MEANWHILE,
};

const stateOf = (name: string, members: readonly PersonId[]) => [name, [...members].sort((one, other) => one - other)];
const saidOf = ({ name, members }: Pick<ListNow, 'name' | 'members'>) =>
  stateOf(
    name,
    members.map(({ id }) => id),
  );

async function keepSaidList(form: FormData): Promise<Answer> {
  const name = textIn(form, 'name').slice(0, LONGEST_NAME);
  if (name === '') return problem('Say what the list is called.');
  const id = readId<ListId>(form.get('list'));
  const members = form.getAll('member').map((each) => readId<PersonId>(each));
  const isAsSeen = (now: Pick<ListNow, 'name' | 'members'>) =>
    mayKeep(saidOf(now), stateOf(name, members), writtenIn(form, 'was'));
  const kept = await keepList(services().pool, id === 0 ? null : id, { name, members }, isAsSeen);
  return kept.ok ? { problem: null, said: 'Kept.' } : problem(LIST_PROBLEMS[kept.error]);
}

export default function People({ loaderData: { people, lists, everybody, begun, next } }: Route.ComponentProps) {
  useLive(['outbox'], EVERY_MS);
  const { now, place } = useReader();
  const columns: Column<ReaderNow>[] = [
    {
      head: 'Name',
      className: 'font-medium',
      cell: ({ id, name, account }) => (
        <>
          <Link className="hover:underline" to={`/people/${id}`}>
            {name}
          </Link>
          {account ? <span className="text-glance font-normal text-third"> signs in</span> : null}
        </>
      ),
    },
    { head: 'Address', wide: true, className: 'whitespace-nowrap text-second', cell: ({ email }) => email },
    { head: 'Reached', className: 'max-w-60', cell: (reader) => <Reach reader={reader} /> },
    {
      head: 'Hears',
      wide: true,
      className: 'max-w-56 truncate text-glance text-second',
      cell: (reader) => hearsWords(reader),
      title: hearsWords,
    },
    {
      head: 'Hours',
      wide: true,
      className: 'text-glance whitespace-nowrap text-second',
      cell: (reader) => hoursWords(reader),
    },
    {
      head: 'Last mail',
      side: 'right',
      className: 'text-glance whitespace-nowrap text-third',
      cell: ({ lastSentAt }) => (lastSentAt === null ? 'none' : formatRecent(lastSentAt, now, place)),
    },
  ];
  const unreached = people.filter(({ confirmedAt, pausedAt }) => confirmedAt === null || pausedAt !== null).length;
  return (
    <>
      <PageHead
        actions={
          <Popover
            wide
            label="Add people"
            trigger={
              <Button weight="strong" aria-haspopup="dialog">
                Add people
              </Button>
            }
          >
            <AddPeople />
          </Popover>
        }
      >
        <h1 className="font-serif text-day font-medium">People</h1>
        <span className="text-glance text-third">
          who hears, and when{unreached === 0 ? '' : `; ${countOf(unreached, 'person', 'people')} cannot be reached`}
        </span>
      </PageHead>
      <Table name="people" className="pt-2" columns={columns} rows={people} keyOf={({ id }) => id} />
      <Onward
        first={begun ? '/people' : null}
        next={next === null ? null : `?${new URLSearchParams(next).toString()}`}
        size={PAGE}
      />
      <Lists lists={lists} everybody={everybody} />
    </>
  );
}

function hearsWords({ reports }: ReaderNow): string {
  const heard = reports.flatMap(({ name, leftAt }) => (leftAt === null ? name : []));
  return heard.length === 0 ? 'nothing' : heard.join(' · ');
}

function Said({ answer }: { answer: Answer | undefined }) {
  if (answer?.problem != null)
    return (
      <p role="alert" className="mt-2 font-medium text-chestnut">
        {answer.problem}
      </p>
    );
  return (
    <p role="status" className="mt-2 text-second">
      {answer?.said ?? ''}
    </p>
  );
}

function AddPeople() {
  const fetcher = useFetcher<typeof action>();
  return (
    <fetcher.Form method="post">
      <h2 className="mb-1 font-serif text-head font-medium">Add people</h2>
      <label htmlFor="people" className="block text-glance text-third">
        Addresses, with commas, semicolons or lines between them
      </label>
      <textarea
        id="people"
        name="people"
        rows={4}
        required
        spellCheck={false}
        placeholder="Ravi Oduya <ravi@heatherlow.example>"
        className="mt-1 w-full border border-third bg-transparent p-2 text-read text-ink placeholder:text-third focus:border-ink"
      />
      <p className="text-glance text-third">Each is asked to confirm the address, and hears nothing else before.</p>
      <Said answer={fetcher.data} />
      <Button
        type="submit"
        weight="strong"
        name="intent"
        value="add"
        className="mt-3"
        disabled={fetcher.state !== 'idle'}
      >
        Add and ask them
      </Button>
    </fetcher.Form>
  );
}

type Everybody = { id: PersonId; name: string }[];

function Lists({ lists, everybody }: { lists: ListNow[]; everybody: Everybody }) {
  const columns: Column<ListNow>[] = [
    { head: 'List', className: 'font-medium', cell: ({ name }) => name },
    {
      head: 'On it',
      className: 'max-w-96 text-second',
      cell: ({ members }) =>
        members.length === 0 ? (
          <span className="text-chestnut">nobody</span>
        ) : (
          listed(
            members.map(({ name }) => name),
            8,
          )
        ),
    },
    {
      head: 'Hears',
      wide: true,
      className: 'max-w-72 truncate text-glance text-second',
      cell: ({ reports }) => reports.join(' · ') || 'nothing',
    },
    {
      head: <span className="sr-only">What can be done</span>,
      side: 'right',
      className: 'whitespace-nowrap',
      cell: (list) => <ListActions list={list} everybody={everybody} />,
    },
  ];
  return (
    <Section
      title="Lists"
      className="pt-8"
      aside={
        <Popover
          label="A new list"
          trigger={
            <button type="button" className="link">
              New list
            </button>
          }
        >
          <ListForm everybody={everybody} />
        </Popover>
      }
    >
      {lists.length === 0 ? (
        <p className="mt-1 text-second">
          A list is a named set of people: a report that names it reaches whoever is on it then.
        </p>
      ) : (
        <Table name="lists" columns={columns} rows={lists} keyOf={({ id }) => id} />
      )}
    </Section>
  );
}

function ListActions({ list, everybody }: { list: ListNow; everybody: Everybody }) {
  const { submit } = useFetcher();
  const [asking, setAsking] = useState(false);
  return (
    <>
      <Popover
        label={`Who is on ${list.name}`}
        trigger={
          <button type="button" className="link mr-4" aria-label={`Change ${list.name}`}>
            Change
          </button>
        }
      >
        <ListForm list={list} everybody={everybody} />
      </Popover>
      <button type="button" className="link" aria-label={`Remove ${list.name}`} onClick={() => setAsking(true)}>
        Remove
      </button>
      <Confirm
        open={asking}
        title={`Remove the list ${list.name}?`}
        go="Remove it"
        stay="Keep it"
        onGo={() => {
          setAsking(false);
          void submit({ intent: 'remove list', list: String(list.id) }, { method: 'post' });
        }}
        onStay={() => setAsking(false)}
      >
        {list.reports.length === 0
          ? 'No report names it. The people on it stay.'
          : `${listed(list.reports, 5)} ${list.reports.length === 1 ? 'names' : 'name'} it, and would not reach ` +
            'those on it any more. The people stay.'}
      </Confirm>
    </>
  );
}

function ListForm({ list, everybody }: { list?: ListNow; everybody: Everybody }) {
  const fetcher = useFetcher<typeof action>();
  const [on, setOn] = useState<ReadonlySet<PersonId>>(new Set(list?.members.map(({ id }) => id)));
  const put = (id: PersonId, is: boolean) => setOn(new Set(is ? [...on, id] : [...on].filter((each) => each !== id)));
  return (
    <fetcher.Form method="post">
      <input type="hidden" name="list" value={list?.id ?? ''} />
      {list === undefined ? null : <AsSeen state={saidOf(list)} fetcher={fetcher} />}
      {[...on].map((id) => (
        <input key={id} type="hidden" name="member" value={id} />
      ))}
      <TextField label="What it is called" name="name" required maxLength={LONGEST_NAME} defaultValue={list?.name} />
      <div className="mt-2 max-h-64 overflow-y-auto" role="group" aria-label="Who is on it">
        {everybody.map(({ id, name }) => (
          <Tick key={id} checked={on.has(id)} onChange={(is) => put(id, is)}>
            {name}
          </Tick>
        ))}
      </div>
      <Said answer={fetcher.data} />
      <Button
        type="submit"
        weight="strong"
        name="intent"
        value="list"
        className="mt-2"
        disabled={fetcher.state !== 'idle'}
      >
        Keep
      </Button>
    </fetcher.Form>
  );
}
