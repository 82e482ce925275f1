import { useState, type ReactNode } from 'react';
import { Form, useNavigation } from 'react-router';
import { Button } from '../../ui/button';
import { Section } from '../../ui/page';
import { Table, type Column } from '../../ui/table';
import type { Tried } from './tried.server';
import { DOES, type TriedLine } from './tried-line';

interface ImportFormProps {
  /** What a document of this kind is. */
  children: ReactNode;
  /** What stands above the names of its lines. */
  head: string;
  accept: string;
  tried: Tried | undefined;
  locale: string;
}

/** Takes a document, says line by line what it would do, and does it when she says so. */
export function ImportForm({ children, head, accept, tried: answered, locale }: ImportFormProps) {
  const [text, setText] = useState(answered?.text ?? '');
  // Of which text the answer tells: it is in no answer that is as long as a file.
  const [asked, setAsked] = useState(text);
  const [name, setName] = useState<string | null>(null);
  const navigation = useNavigation();
  const busy = navigation.state === 'submitting';
  const tried = answered !== undefined && asked === text ? answered : null;
  const takes = takenBy(tried);
  return (
    <>
      <div className="max-w-3xl pt-3">
        <div className="text-second">{children}</div>
        <Form method="post" encType="multipart/form-data" className="mt-4" onSubmit={() => setAsked(text)}>
          <label className="block text-glance text-third">
            A file
            <input
              type="file"
              accept={accept}
              className="mt-1 block text-read text-ink"
              onChange={(event) => {
                const file = event.target.files?.[0];
                if (file === undefined) return;
                setName(file.name);
                void file.text().then(setText);
              }}
            />
          </label>
          <label className="mt-3 block text-glance text-third">
            {name === null ? 'Or its text' : `What ${name} says`}
            <textarea
              name="text"
              rows={7}
              spellCheck={false}
              value={text}
              className="mt-1 block w-full border border-rule bg-transparent p-2 font-mono text-glance text-ink focus:border-ink focus:outline-none"
              onChange={(event) => setText(event.target.value)}
            />
          </label>
          <input type="hidden" name="seal" value={tried?.seal ?? ''} />
          <p className="mt-3 flex items-center gap-3">
            <Button
              type="submit"
              name="intent"
              value="try"
              weight={takes > 0 ? 'plain' : 'strong'}
              disabled={text.trim() === '' || busy}
            >
              See what it would do
            </Button>
            <DoIt tried={tried} busy={busy} />
            <Busy doing={navigation.formData?.get('intent') === 'do'} busy={busy} lines={takes} locale={locale} />
          </p>
        </Form>
        {tried?.problem == null ? null : (
          <p role="alert" className="mt-3 font-medium text-chestnut">
            {tried.problem}
          </p>
        )}
      </div>
      {tried === null || tried.lines.length === 0 ? null : (
        <Lines tried={tried} head={head} locale={locale} text={text} />
      )}
    </>
  );
}

const takenBy = (tried: Tried | null) => (tried === null ? 0 : tried.counts.adds + tried.counts.changes);

/** What is being done, while that lasts. */
function Busy({ doing, busy, lines, locale }: { doing: boolean; busy: boolean; lines: number; locale: string }) {
  const words = doing
    ? `Doing it: ${lines.toLocaleString(locale)} in one go, and all of them or none …`
    : 'Looking through it …';
  return (
    <span role="status" className="text-second">
      {busy ? words : ''}
    </span>
  );
}

function DoIt({ tried, busy }: { tried: Tried | null; busy: boolean }) {
  if (takenBy(tried) === 0) return null;
  return (
    <Button type="submit" name="intent" value="do" weight="strong" disabled={busy}>
      {doWords(tried)}
    </Button>
  );
}

function doWords(tried: Tried | null): string {
  const { adds = 0, changes = 0 } = tried?.counts ?? {};
  if (adds === 0) return `Change ${changes}`;
  return changes === 0 ? `Add ${adds}` : `Add ${adds}, change ${changes}`;
}

function Lines({ tried, head, locale, text }: { tried: Tried; head: string; locale: string; text: string }) {
  const { counts, lines, more } = tried;
  const said = (Object.keys(DOES) as TriedLine['does'][]).flatMap((does) =>
    counts[does] === 0 ? [] : `${counts[does].toLocaleString(locale)} ${DOES[does]}`,
  );
  const columns: Column<TriedLine>[] = [
    { head: 'Line', side: 'right', className: 'text-third', cell: ({ line }) => line },
    { head, className: 'font-medium', cell: ({ name }) => name || '–' },
    {
      head: 'Would be',
      className: ({ does }) => (does === 'refused' ? 'font-medium text-chestnut' : ''),
      cell: ({ does }) => DOES[does],
    },
    { head: 'What', cell: ({ said: what }) => what.join('; ') },
  ];
  return (
    <Section title="What it would do" aside={said.join(', ')} className="mt-5">
      <Table name="lines" most="max-h-[70vh]" columns={columns} rows={lines} keyOf={({ line }) => line} />
      {more === 0 ? null : (
        // What is sent is as long as a file, and what comes is one: the browser does it, and this page stays.
        <form method="post" action="import/lines" encType="multipart/form-data" className="pt-2 text-glance text-third">
          <input type="hidden" name="text" value={text} />
          and {more.toLocaleString(locale)} more lines: <button className="link">all of them as a file</button>
        </form>
      )}
    </Section>
  );
}
