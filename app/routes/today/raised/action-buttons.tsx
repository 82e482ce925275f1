import type { EpisodeId } from '#core/id';
import { useState, type ReactNode } from 'react';
import { useFetcher } from 'react-router';
import { Confirm } from '../../../ui/confirm';
import { Button } from '../../../ui/button';
import { TextField } from '../../../ui/field';
import { Popover } from '../../../ui/popover';
import type { ActionAnswer } from './actions.server';
import { UNTIL } from './until';

interface ActionButtonsProps {
  ids: EpisodeId[];
  taken: boolean;
  putOff: boolean;
  many?: boolean;
}

/** What can be done about episodes: taken on with a note, let go, put off, closed. */
export function ActionButtons({ ids, taken, putOff, many = false }: ActionButtonsProps) {
  const fetcher = useFetcher<ActionAnswer>();
  const [closing, setClosing] = useState(false);
  const [note, setNote] = useState('');
  const act = (deed: Record<string, string>) => {
    const form = new FormData();
    for (const id of ids) form.append('episode', String(id));
    for (const [name, value] of Object.entries(deed)) form.append(name, value);
    void fetcher.submit(form, { method: 'post', action: '/raised' });
  };
  const busy = fetcher.state !== 'idle';
  const said = fetcher.data?.said ?? null;
  return (
    <div className="flex flex-col items-start md:items-end" aria-busy={busy || undefined}>
      <div className="flex gap-4 pt-1 font-medium md:pt-0">
        {taken ? (
          <button type="button" className="link" disabled={busy} onClick={() => act({ do: 'let go' })}>
            Let go
          </button>
        ) : (
          <Choice label="Take it on" word="Take on" busy={busy}>
            <form
              onSubmit={(event) => {
                event.preventDefault();
                act({ do: 'take on', note });
              }}
            >
              <TextField
                label="A note for the others (may be empty)"
                value={note}
                maxLength={500}
                onChange={(event) => setNote(event.target.value)}
              />
              <Button type="submit" weight="strong" className="mt-3">
                Take {many ? 'them' : 'it'} on
              </Button>
            </form>
          </Choice>
        )}
        {putOff ? (
          <button type="button" className="link" disabled={busy} onClick={() => act({ do: 'take up' })}>
            Take up
          </button>
        ) : (
          <Choice label="Put it off" word="Put off" busy={busy}>
            <p className="text-glance text-third">
              Until then nothing is told of {many ? 'them' : 'it'}; reminders become one.
            </p>
            <ul className="mt-1">
              {UNTIL.map(({ value, label }) => (
                <li key={value} className="py-1">
                  <button type="button" className="link" onClick={() => act({ do: 'put off', until: value })}>
                    {label}
                  </button>
                </li>
              ))}
            </ul>
          </Choice>
        )}
        <button type="button" className="link" disabled={busy} onClick={() => setClosing(true)}>
          Close
        </button>
      </div>
      {said === null ? null : (
        <p role="alert" className="text-glance font-medium text-chestnut">
          {said}
        </p>
      )}
      <Confirm
        open={closing}
        title={ids.length > 1 ? `Close ${ids.length} episodes?` : 'Close this episode?'}
        go="Close"
        stay="Leave open"
        onGo={() => {
          setClosing(false);
          act({ do: 'close', note: '' });
        }}
        onStay={() => setClosing(false)}
      >
        {ids.length > 1 ? 'They are' : 'It is'} closed by hand, in your name. The condition has to be left before{' '}
        {ids.length > 1 ? 'they are' : 'it is'} raised again.
      </Confirm>
    </div>
  );
}

/** A deed that asks something more, in a small window of its own. */
function Choice({ label, word, busy, children }: { label: string; word: string; busy: boolean; children: ReactNode }) {
  return (
    <Popover
      label={label}
      trigger={
        <button type="button" className="link" disabled={busy}>
          {word}
        </button>
      }
    >
      {children}
    </Popover>
  );
}
