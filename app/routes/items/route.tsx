import { useState } from 'react';
import { Form, Link, useSubmit } from 'react-router';
import { cellText, type Cell } from '#core/items/item';
import { columnsOf } from '#core/items/sheet';
import { formatValue } from '#core/value/format';
import { sanitiseText } from '#core/value/sanitise';
import { countItems, listChannels, listItems, readPrices, type ItemNow } from '#server/db/item/items';
import { readForm } from '../../form.server';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import { Button, ButtonLink } from '../../ui/button';
import { TextField } from '../../ui/field';
import { Empty, PageHead } from '../../ui/page';
import { Onward } from '../../ui/pager';
import { Popover } from '../../ui/popover';
import { Table, type Column } from '../../ui/table';
import { useReader } from '../shell/frame/reader';
import type { Route } from './+types/route';
import { actOnItems, type EditAnswer } from './actions.server';
import { EditableCell } from './cell';
import { Edited, useEdits } from './edited';

export const meta: Route.MetaFunction = () => [{ title: 'Items · Shrike' }];

const PAGE = 100;
const MOST_WORDS = 200;

export async function loader({ request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'item' });
  const { pool } = services();
  const asked = new URL(request.url).searchParams;
  const [words, after] = ['q', 'after'].map((name) =>
    sanitiseText(asked.get(name) ?? '')
      .slice(0, MOST_WORDS)
      .trim(),
  ) as [string, string];
  const [found, channels, count] = await Promise.all([
    listItems(pool, { words, after, most: PAGE + 1 }),
    listChannels(pool),
    countItems(pool),
  ]);
  const items = found.slice(0, PAGE);
  const read = await readPrices(
    pool,
    items.map(({ id }) => id),
  );
  const next = found.length > PAGE ? (items.at(-1)?.reference ?? null) : null;
  return { items, channels: channels.map(({ name }) => name), read, count, words, begun: after !== '', next };
}

export async function action({ request, context }: Route.ActionArgs): Promise<EditAnswer> {
  const person = asks(context, 'change', { kind: 'item' });
  return actOnItems(await readForm(request), person);
}

export default function Items({ loaderData }: Route.ComponentProps) {
  const { items, channels, read, count, words, begun, next } = loaderData;
  const { locale } = useReader();
  const { send } = useEdits();
  const to = (more: Record<string, string>) =>
    `?${new URLSearchParams({ ...(words === '' ? {} : { q: words }), ...more }).toString()}`;
  return (
    <>
      <PageHead
        actions={
          <>
            {count === 0 ? null : <Search words={words} />}
            <ButtonLink to="/items/import">Import</ButtonLink>
            {count === 0 ? null : (
              <ButtonLink to="/items/sheet" reloadDocument>
                Export
              </ButtonLink>
            )}
            <NewItem />
          </>
        }
      >
        <h1 className="font-serif text-day font-medium">Items</h1>
        <span className="text-glance text-third">
          {count === 0
            ? 'what we sell'
            : count === 1
              ? 'one thing that we sell'
              : `${count.toLocaleString(locale)} things that we sell`}
        </span>
      </PageHead>
      <Edited />
      {count === 0 ? (
        <Empty title="No item is known yet">
          <p>
            Items are what you sell. Once records of your watches are joined to them, a rule can say “below ours”,
            “under the agreed minimum” or “the cheapest of its offers”.
          </p>
        </Empty>
      ) : items.length === 0 ? (
        <Empty title="No item fits">
          Nothing goes by “{words}”.{' '}
          <Link className="link" to="/items">
            Show all {count.toLocaleString(locale)}
          </Link>
        </Empty>
      ) : (
        <>
          <Table name="items" columns={columns(channels, read, send, locale)} rows={items} keyOf={({ id }) => id} />
          <Onward first={begun ? to({}) : null} next={next === null ? null : to({ after: next })} size={PAGE} />
        </>
      )}
    </>
  );
}

type Send = ReturnType<typeof useEdits>['send'];
type Read = Awaited<ReturnType<typeof readPrices>>;

/** What is seen at a glance: the rest of what a channel calls an item stands on its own page. */
const WIDE = ['brand', 'category', 'supplier', 'gtin'];

function columns(channels: string[], read: Read, send: Send, locale: string): Column<ItemNow>[] {
  const shown = columnsOf(channels).filter(({ cell }) => cell.of !== 'listing' && cell.of !== 'variant');
  return [
    ...shown.map(({ head, cell }): Column<ItemNow> => ({
      head: headWords(cell),
      side: cell.of === 'price' || cell.of === 'minimum' ? 'right' : 'left',
      wide: WIDE.includes(cell.of) || cell.of === 'price',
      className: cell.of === 'name' ? 'max-w-72 truncate' : 'max-w-44 truncate',
      cell: (item) =>
        cell.of === 'reference' ? (
          <Reference item={item} />
        ) : (
          <ItemCell item={item} head={head} cell={cell} read={read} send={send} locale={locale} />
        ),
    })),
    {
      head: 'Offers',
      side: 'right',
      cell: ({ offers }) => (offers === 0 ? <span className="text-third">none</span> : offers),
    },
  ];
}

const Reference = ({ item }: { item: ItemNow }) => (
  <Link className="font-medium hover:underline" to={`/items/${item.id}`}>
    {item.reference}
  </Link>
);

interface ItemCellProps {
  item: ItemNow;
  head: string;
  cell: Cell;
  read: Read;
  send: Send;
  locale: string;
}

function ItemCell({ item, head, cell, read, send, locale }: ItemCellProps) {
  const text = cellText(item, cell);
  const found =
    cell.of === 'price' && 'channel' in cell
      ? read.find((each) => each.item === item.id && each.site === cell.channel)
      : undefined;
  return (
    <EditableCell
      label={`${head} of ${item.reference}`}
      text={text}
      shown={shownText(item, cell, locale)}
      read={found === undefined ? undefined : formatValue(found.price, locale)}
      onKeep={(typed) => send({ intent: 'cell', item: String(item.id), head, was: text, text: typed })}
    />
  );
}

const headWords = (cell: Cell): string => {
  if (cell.of === 'gtin') return 'GTIN';
  if ('channel' in cell) return `At ${cell.channel}`;
  return cell.of === 'minimum' ? 'Agreed minimum' : `${cell.of.charAt(0).toUpperCase()}${cell.of.slice(1)}`;
};

/** A price as it is read; one that holds on some days only as it is typed. */
function shownText(item: ItemNow, cell: Cell, locale: string): string {
  const [minimum, ...more] = item.minimums;
  if (
    cell.of === 'minimum' &&
    minimum !== undefined &&
    more.length === 0 &&
    minimum.from === null &&
    minimum.until === null
  )
    return formatValue(minimum.price, locale);
  const price = cell.of === 'price' && 'channel' in cell ? (item.listings[cell.channel]?.price ?? null) : null;
  return price === null ? cellText(item, cell) : formatValue(price, locale);
}

function Search({ words }: { words: string }) {
  const submit = useSubmit();
  return (
    <Form role="search" onChange={(event) => void submit(event.currentTarget, { replace: true })}>
      <input
        name="q"
        type="search"
        aria-label="Find an item"
        placeholder="Find an item"
        defaultValue={words}
        className="h-[30px] w-[190px] border-b border-rule bg-transparent placeholder:text-third focus:border-ink focus:outline-none"
      />
    </Form>
  );
}

function NewItem() {
  const { send } = useEdits();
  const [reference, setReference] = useState('');
  return (
    <Popover label="A new item" trigger={<Button weight="strong">New item</Button>}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          send({ intent: 'add', reference });
          setReference('');
        }}
      >
        <TextField
          label="Our reference"
          value={reference}
          maxLength={60}
          onChange={(event) => setReference(event.target.value)}
        />
        <p className="mt-1 text-glance text-third">The rest is written in its row.</p>
        <Button type="submit" weight="strong" className="mt-3" disabled={reference.trim() === ''}>
          Add it
        </Button>
      </form>
    </Popover>
  );
}
