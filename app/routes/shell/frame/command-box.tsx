import { Command } from 'cmdk';
import { Dialog } from 'radix-ui';
import { useEffect, useState } from 'react';
import { useFetcher, useNavigate } from 'react-router';
import { PLACES } from '../../settings/frame/places';
import type { loader } from '../find/route';

const VIEWS = [
  { to: '/', label: 'Briefing' },
  { to: '/raised', label: 'Raised' },
  { to: '/watches', label: 'Watches' },
  { to: '/rules', label: 'Rules' },
  { to: '/stencils', label: 'Stencils' },
  { to: '/reports', label: 'Reports' },
  { to: '/editions', label: 'Editions' },
  { to: '/outbox', label: 'Outbox' },
  { to: '/items', label: 'Items' },
  ...PLACES.flatMap(({ to, label, views = [{ to, label }] }) => views).map(({ to, label }) => ({
    to,
    label: `Settings: ${label}`,
  })),
];

const MAKES = [
  { to: '/watches/new', label: 'New watch' },
  { to: '/reports/new', label: 'New report' },
  { to: '/watches/import', label: 'Bring watches in from a file' },
  { to: '/items/import', label: 'Bring items in from a file' },
];

/** She is asked for after so long without a key. */
const ASK_AFTER_MS = 150;

/** A box in which everything is found by its name, and gone to; Ctrl K, or ⌘ K, opens it anywhere. */
export function CommandBox() {
  const [isOpen, setOpen] = useState(false);
  useEffect(() => {
    const open = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== 'k' || !(event.ctrlKey || event.metaKey) || event.shiftKey || event.altKey)
        return;
      event.preventDefault();
      setOpen((before) => !before);
    };
    document.addEventListener('keydown', open);
    return () => document.removeEventListener('keydown', open);
  }, []);
  return (
    <Dialog.Root open={isOpen} onOpenChange={setOpen}>
      <Dialog.Trigger className="mx-[18px] mb-3 hidden h-7 items-center justify-between border-b border-rule text-glance text-third hover:border-third hover:text-ink md:flex">
        Find, or go to …<kbd className="rounded-[3px] border border-rule px-1.5 text-[11px] leading-[17px]">Ctrl K</kbd>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 z-50 w-[min(560px,calc(100vw-24px))] -translate-x-1/2 border border-ink bg-page text-read text-ink"
        >
          <Dialog.Title className="sr-only">Find, or go to</Dialog.Title>
          <Found onGone={() => setOpen(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Found({ onGone }: { onGone: () => void }) {
  const [words, setWords] = useState('');
  const navigate = useNavigate();
  const { load, data, state } = useFetcher<typeof loader>();
  useEffect(() => {
    if (words.trim() === '') return undefined;
    const timer = setTimeout(() => void load(`/find?q=${encodeURIComponent(words)}`), ASK_AFTER_MS);
    return () => clearTimeout(timer);
  }, [words, load]);
  const asked = words.trim().toLowerCase();
  const named = ({ label }: { label: string }) => label.toLowerCase().includes(asked);
  const isAnswered = state === 'idle' && data?.words === words.trim();
  // What was found for words before stands only as far as it goes by these.
  const found = (data?.found ?? [])
    .map(({ of, all }) => ({
      of,
      all: all.filter(({ name, beside }) => isAnswered || `${name} ${beside}`.toLowerCase().includes(asked)),
    }))
    .filter(() => asked !== '');
  const go = (to: string) => {
    onGone();
    void navigate(to);
  };
  return (
    <Command label="Find, or go to" shouldFilter={false} loop>
      <Command.Input
        autoFocus
        value={words}
        onValueChange={setWords}
        maxLength={200}
        placeholder="A watch, a report, an item, a person, a view"
        className="h-11 w-full border-b border-rule bg-transparent px-4 text-head placeholder:text-third focus:outline-none"
      />
      <Command.List className="max-h-[56vh] overflow-y-auto pb-2">
        <Command.Empty className="px-4 py-3 text-second">
          {asked === '' || isAnswered ? 'Nothing goes by these words.' : 'Looking …'}
        </Command.Empty>
        {found.map(({ of, all }) => (
          <Group key={of} of={of}>
            {all.map(({ to, name, beside }) => (
              <Row key={to} to={to} name={name} beside={beside} onGo={go} />
            ))}
          </Group>
        ))}
        <Group of="Begin">
          {MAKES.filter(named).map(({ to, label }) => (
            <Row key={to} to={to} name={label} onGo={go} />
          ))}
        </Group>
        <Group of="Views">
          {VIEWS.filter(named).map(({ to, label }) => (
            <Row key={to} to={to} name={label} onGo={go} />
          ))}
        </Group>
      </Command.List>
    </Command>
  );
}

const Group = ({ of, children }: { of: string; children: React.ReactNode[] }) =>
  children.length === 0 ? null : (
    <Command.Group
      heading={of}
      className="[&_[cmdk-group-heading]]:px-4 [&_[cmdk-group-heading]]:pt-3 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-glance [&_[cmdk-group-heading]]:text-third"
    >
      {children}
    </Command.Group>
  );

interface RowProps {
  to: string;
  name: string;
  beside?: string;
  onGo: (to: string) => void;
}

const Row = ({ to, name, beside = '', onGo }: RowProps) => (
  <Command.Item
    value={to}
    onSelect={() => onGo(to)}
    className="flex cursor-pointer justify-between gap-4 border-l-[3px] border-transparent px-[13px] py-1.5 data-[selected=true]:border-chestnut data-[selected=true]:bg-paper"
  >
    <span className="truncate">{name}</span>
    <span className="shrink-0 text-third">{beside}</span>
  </Command.Item>
);
