import { useState } from 'react';
import { Form, Link, useFetcher } from 'react-router';
import { ruleDraftOf, type RuleDraft } from '#core/plan/rule-draft';
import type { Field } from '#core/read/definition';
import type { Audience } from '#server/db/person/people';
import type { StencilNow } from '#server/db/watch/stencils';
import { ListAsked, namesToChoose } from '../../../parts/bulk/asked';
import type { BulkAnswer } from '../../../parts/bulk/answer';
import { BulkStatus } from '../../../parts/bulk/bar';
import { AudienceEditor } from '../../../parts/plan/audience';
import { ConditionEditor } from '../../../parts/plan/condition';
import { Button } from '../../../ui/button';
import { choosingColumn, useChoosing } from '../../../ui/choosing';
import { Choice, TextField } from '../../../ui/field';
import { PageHead, Section, Where } from '../../../ui/page';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';
import { sentenceOf } from './list';
import type { MadeRule, WouldMake } from './pressed.server';

export default function StencilPage({ loaderData }: Route.ComponentProps) {
  const { stencil } = loaderData;
  return <Page key={`${stencil.id} ${stencil.version}`} {...loaderData} />;
}

type Loaded = Route.ComponentProps['loaderData'];

function Page({ stencil, audiences, names, asked, more, would, made }: Loaded) {
  const { locale } = useReader();
  return (
    <>
      <PageHead
        actions={
          <Form method="post">
            <Button type="submit" name="intent" value="end" weight="quiet">
              Take it away
            </Button>
          </Form>
        }
      >
        <Where within={[{ name: 'Stencils', to: '/stencils' }]}>{stencil.name}</Where>
      </PageHead>
      <h1 className="pt-3.5 pb-1 font-serif text-[22px] leading-[31px] text-pretty md:text-sentence" data-said>
        When {sentenceOf(stencil, locale)}
      </h1>
      <div className="grid gap-x-10 gap-y-6 pt-2 lg:grid-cols-[300px_minmax(0,1fr)]">
        <Says stencil={stencil} audiences={audiences} />
        <div className="min-w-0">
          <Made made={made} />
          <PutOn would={would} more={more} asked={asked} names={names} />
        </div>
      </div>
    </>
  );
}

/** What the stencil says, to be said otherwise. */
function Says({ stencil, audiences }: { stencil: StencilNow; audiences: Audience[] }) {
  const { place } = useReader();
  const fetcher = useFetcher<BulkAnswer>();
  const readers = stencil.readers.are === 'named' ? stencil.readers.audiences : [];
  const [draft, setDraft] = useState<RuleDraft>(() =>
    ruleDraftOf({ id: null, definition: stencil.rule, audiences: readers }),
  );
  const [name, setName] = useState(stencil.name);
  const [limits, setLimits] = useState(stencil.limits.as);
  const [percent, setPercent] = useState(stencil.limits.as === 'present' ? stencil.limits.percent : '-8');
  const [are, setAre] = useState(stencil.readers.are);
  const say = (said: Partial<RuleDraft>) => setDraft((known) => ({ ...known, ...said }));
  return (
    <Section title="What it says">
      <fetcher.Form method="post" className="mt-2 flex flex-col gap-4">
        <input type="hidden" name="rule" value={JSON.stringify({ ...draft, id: null })} />
        <input type="hidden" name="version" value={stencil.version} />
        <TextField
          label="Name"
          name="name"
          value={name}
          maxLength={120}
          onChange={(event) => setName(event.target.value)}
        />
        <ConditionEditor
          fields={stencil.fields as Field[]}
          rule={draft}
          present={stencil.present}
          place={place}
          onChange={say}
          onNever={() => undefined}
          opened
          ofMany
        />
        <input type="hidden" name="limits" value={limits} />
        <Choice
          label="The limit"
          value={limits}
          onChange={setLimits}
          options={[
            { value: 'present', label: 'the limit is counted from what each watch reads' },
            { value: 'said', label: 'the limit is the same on each' },
          ]}
        />
        {limits === 'present' ? (
          <TextField
            label="Percent from the present value (−8 is below it)"
            name="percent"
            value={percent}
            onChange={(event) => setPercent(event.target.value)}
          />
        ) : null}
        <input type="hidden" name="readers" value={are} />
        <Choice
          label="Who should hear"
          value={are}
          onChange={setAre}
          options={[
            { value: 'those of the watch', label: 'those who hear of the watch already' },
            { value: 'named', label: 'those who are named here' },
          ]}
        />
        {are === 'named' ? (
          <AudienceEditor
            audiences={audiences}
            chosen={draft.audiences}
            onChange={(chosen) => say({ audiences: chosen })}
          />
        ) : null}
        <p className="flex items-center gap-3">
          <Button type="submit" name="intent" value="change" weight="strong" disabled={fetcher.state === 'submitting'}>
            Keep it
          </Button>
          <Status answer={fetcher.data} />
        </p>
      </fetcher.Form>
    </Section>
  );
}

function Status({ answer }: { answer: BulkAnswer | undefined }) {
  const undoing = useFetcher<BulkAnswer>();
  const undo = (batch: number) =>
    void undoing.submit({ intent: 'undo', batch: String(batch) }, { method: 'post', action: '/bulk' });
  return <BulkStatus answer={undoing.data ?? answer ?? null} busy={undoing.state === 'submitting'} onUndo={undo} />;
}

/** Does something on the watches that are chosen. */
function useDoing() {
  const fetcher = useFetcher<BulkAnswer>();
  const send = (intent: string, rows: { watch: number; rule?: number }[]) => {
    const form = new FormData();
    form.set('intent', intent);
    for (const watch of new Set(rows.map((row) => row.watch))) form.append('watch', String(watch));
    for (const { rule } of rows) if (rule !== undefined) form.append('rule', String(rule));
    void fetcher.submit(form, { method: 'post' });
  };
  return { send, answer: fetcher.data, busy: fetcher.state === 'submitting' };
}

const STANDS: Record<MadeRule['stands'], string> = {
  'as made': 'as it says',
  behind: 'changed since',
  'by hand': 'edited by hand',
};

/** What it made; changes since then are offered, those that were edited by hand apart. */
function Made({ made }: { made: MadeRule[] }) {
  const offered = [...made.filter(({ stands, offered: words }) => stands === 'behind' && words.length > 0)];
  const byHand = made.filter(({ stands }) => stands === 'by hand');
  const rest = made.filter((row) => !offered.includes(row) && !byHand.includes(row));
  const choosing = useChoosing<MadeRule>([...offered, ...byHand], ({ rule }) => rule);
  const { send, answer, busy } = useDoing();
  const rows = [...offered, ...byHand, ...rest];
  const choose = choosingColumn(choosing, ({ name }) => name);
  const columns: Column<MadeRule>[] = [
    { ...choose, cell: (row) => (rest.includes(row) ? null : choose.cell(row)) },
    {
      head: 'Watch',
      className: 'font-medium',
      cell: ({ watch, rule, name }) => (
        <Link className="hover:underline" to={`/watches/${watch}/rules/${rule}`}>
          {name}
        </Link>
      ),
    },
    { head: 'Its rule', cell: ({ says }) => says },
    { head: 'Would be', className: 'text-glance', cell: ({ offered: words }) => words.join('; ') },
  ];
  if (made.length === 0) return null;
  return (
    <Section
      title={made.length === 1 ? 'It made one rule' : `It made ${made.length} rules`}
      aside={<Status answer={answer} />}
    >
      <Table
        name="made"
        columns={columns}
        rows={rows}
        keyOf={({ rule }) => rule}
        groupOf={({ stands }) => STANDS[stands]}
      />
      {choosing.chosen.length === 0 ? null : (
        <Button className="mt-2" weight="strong" disabled={busy} onClick={() => send('bring up', choosing.chosen)}>
          Let {choosing.chosen.length === 1 ? 'it' : `these ${choosing.chosen.length}`} say what it says now
        </Button>
      )}
    </Section>
  );
}

type PutOnProps = Pick<Loaded, 'would' | 'more' | 'asked' | 'names'>;

/** The watches that it can be put on, with what it would make of each. */
function PutOn({ would, more, asked, names }: PutOnProps) {
  const open = would.filter(({ has }) => !has);
  const choosing = useChoosing<WouldMake>(
    open.filter(({ says }) => says !== null),
    ({ watch }) => watch,
  );
  const { send, answer, busy } = useDoing();
  const choose = choosingColumn(choosing, ({ name }) => name);
  const columns: Column<WouldMake>[] = [
    { ...choose, cell: (row) => (row.says === null ? null : choose.cell(row)) },
    {
      head: 'Watch',
      cell: ({ watch, name, site }) => (
        <>
          <Link className="font-medium hover:underline" to={`/watches/${watch}`}>
            {name}
          </Link>
          <span className="ml-2 text-glance text-third">{site}</span>
        </>
      ),
    },
    {
      head: 'What it makes',
      className: ({ says }) => (says === null ? 'text-third' : ''),
      cell: ({ says, because }) => says ?? because,
    },
  ];
  return (
    <Section title="Put it on" aside={<Status answer={answer} />} className="mt-5">
      <ListAsked
        asked={asked}
        choices={[
          { name: 'site', label: 'Site', options: namesToChoose('all sites', names.sites) },
          { name: 'tag', label: 'Tag', options: namesToChoose('all tags', names.tags) },
        ]}
      />
      {choosing.chosen.length === 0 ? null : (
        <Button className="mt-2" weight="strong" disabled={busy} onClick={() => send('put on', choosing.chosen)}>
          Put it on {choosing.chosen.length === 1 ? 'one watch' : `${choosing.chosen.length} watches`}
        </Button>
      )}
      <Table name="would" className="pt-1" columns={columns} rows={open} keyOf={({ watch }) => watch} />
      {more ? (
        <p className="pt-2 text-glance text-third">
          There are more watches: hold the list to a site or a tag to see them.
        </p>
      ) : null}
      {open.length === 0 ? <p className="pt-2 text-second">It is on all of them.</p> : null}
    </Section>
  );
}
