import type { ItemId } from '#core/id';
import { data, Link, redirect } from 'react-router';
import { cellText } from '#core/items/item';
import { columnsOf } from '#core/items/sheet';
import { compareDecimals, magnitude, percentOf, subtract } from '#core/value/decimal';
import { formatAmount, formatPercent, formatValue } from '#core/value/format';
import { alike, type Money } from '#core/value/value';
import { formatRecent } from '#core/when/format';
import { listEdits } from '#server/db/watch/edits';
import { itemsOf, listChannels, offersOf, wasItem, type OfferNow } from '#server/db/item/items';
import { readId } from '../../ids.server';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import { Button, ButtonLink } from '../../ui/button';
import { PageHead, Section, Where } from '../../ui/page';
import { Table, type Column } from '../../ui/table';
import { useReader } from '../shell/frame/reader';
import type { Route } from './+types/item';
import { EditableCell } from './cell';
import { Edited, useEdits } from './edited';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.item.reference ?? 'An item'} · Shrike` },
];

const MOST_OFFERS = 200;
const MOST_EDITS = 20;

export async function loader({ params, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'item' });
  const { pool } = services();
  const id = readId<ItemId>(params.item);
  const [item] = await itemsOf(pool, [id]);
  // What was taken away here can be undone in the list.
  if (item === undefined && (await wasItem(pool, id))) throw redirect('/items');
  if (item === undefined) throw data('There is no such item.', { status: 404 });
  const [channels, offers, edits] = await Promise.all([
    listChannels(pool),
    offersOf(pool, id, MOST_OFFERS),
    listEdits(pool, { of: { kind: 'item', thing: id }, before: null, most: MOST_EDITS }),
  ]);
  return { item, channels: channels.map(({ name }) => name), offers, edits };
}

export default function ItemPage({ loaderData }: Route.ComponentProps) {
  const { item, channels, offers, edits } = loaderData;
  const { send } = useEdits();
  const { place, now } = useReader();
  const columns = columnsOf(channels);
  return (
    <>
      <PageHead
        actions={
          <>
            <ButtonLink to={`/reports/new?item=${item.id}`}>Report on it</ButtonLink>
            <Button weight="quiet" onClick={() => send({ intent: 'end', item: String(item.id) })}>
              Take it away
            </Button>
          </>
        }
      >
        <Where within={[{ name: 'Items', to: '/items' }]}>{item.reference}</Where>
      </PageHead>
      <h1 className="pt-3.5 font-serif text-sentence font-medium">{item.name || item.reference}</h1>
      <Edited />
      <div className="grid gap-x-10 gap-y-6 lg:grid-cols-[minmax(0,1fr)_320px]">
        <Section title="Offers" aside={offers.length === 0 ? undefined : 'ours first'}>
          {offers.length === 0 ? (
            <p className="mt-2 text-second">
              No record is joined to it yet. On the page of a watch, a record is joined by the column “Item”; where it
              says its reference or GTIN, that is proposed.
            </p>
          ) : (
            <Offers offers={offers} />
          )}
        </Section>
        <div>
          <Section title="What it is">
            <dl>
              {columns.map(({ head, cell }) => {
                const text = cellText(item, cell);
                return (
                  <div key={head} className="cell grid grid-cols-[132px_minmax(0,1fr)] gap-3">
                    <dt className="text-third">{cell.of === 'gtin' ? 'GTIN' : head}</dt>
                    <dd>
                      <EditableCell
                        label={head}
                        text={text}
                        onKeep={(typed) =>
                          send({ intent: 'cell', item: String(item.id), head, was: text, text: typed })
                        }
                      />
                    </dd>
                  </div>
                );
              })}
            </dl>
          </Section>
          {edits.length === 0 ? null : (
            <Section title="Who changed what" className="mt-5">
              <ul>
                {edits.map(({ id, by, at, what, undone }) => (
                  <li key={id} className="cell">
                    <span className={undone ? 'text-third line-through' : ''}>{what.join('; ')}</span>{' '}
                    <span className="text-glance text-third">
                      {by}, {formatRecent(at, now, place)}
                    </span>
                  </li>
                ))}
              </ul>
            </Section>
          )}
        </div>
      </div>
    </>
  );
}

const WHOSE = { own: 'our own', channel: 'our channel', rival: '' } as const;

function Offers({ offers }: { offers: OfferNow[] }) {
  const { locale, place, now } = useReader();
  const ours = offers.find(({ kind, price, gone }) => kind === 'own' && price !== null && !gone)?.price ?? null;
  const columns: Column<OfferNow>[] = [
    {
      head: 'Where',
      cell: ({ site, kind }) => (
        <>
          <span className={kind === 'own' || kind === 'channel' ? 'font-medium' : ''}>{site}</span>
          {kind === null || WHOSE[kind] === '' ? null : (
            <span className="ml-2 text-glance text-third">{WHOSE[kind]}</span>
          )}
        </>
      ),
    },
    {
      head: 'As',
      className: 'max-w-64 truncate',
      cell: ({ watch, record, name }) => (
        <Link className="link" to={`/watches/${watch}?record=${record}`}>
          {name}
        </Link>
      ),
    },
    {
      head: 'Price',
      side: 'right',
      cell: ({ price, gone }) => (gone ? 'gone' : price === null ? '–' : formatValue(price, locale)),
    },
    {
      head: 'Against ours',
      side: 'right',
      cell: ({ price, kind, gone }) => (kind === 'own' || gone ? '' : againstWords(price, ours, locale)),
    },
    {
      head: 'Read',
      side: 'right',
      wide: true,
      className: 'text-glance whitespace-nowrap text-third',
      cell: ({ lastGoodAt }) => (lastGoodAt === null ? 'never' : formatRecent(lastGoodAt, now, place)),
    },
  ];
  return <Table name="offers" columns={columns} rows={offers} keyOf={({ record }) => record} />;
}

function againstWords(price: Money | null, ours: Money | null, locale: string): string {
  if (price === null || ours === null) return '';
  if (!alike(price, ours)) return 'another currency';
  const difference = subtract(price.amount, ours.amount);
  const side = compareDecimals(price.amount, ours.amount);
  if (side === 0) return 'the same';
  const percent = percentOf(difference, ours.amount);
  return (
    `${formatAmount(magnitude(difference), price, locale)} ` +
    `${side < 0 ? 'below' : 'above'}${percent === null ? '' : `, ${formatPercent(percent, locale)}`}`
  );
}
