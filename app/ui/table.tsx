import { useVirtualizer } from '@tanstack/react-virtual';
import { Fragment, useRef, type ReactNode, type RefObject } from 'react';

/** One column of a list. */
export interface Column<Row> {
  /** What stands above it; a node for those who see it, or words for those who do not (`said`). */
  head: ReactNode;
  cell: (row: Row) => ReactNode;
  /** Numbers and times stand to the right. */
  side?: 'left' | 'right';
  /** Left out where there is no room: what is looked for stays. */
  wide?: boolean;
  /** Of its cells, besides what every cell has. */
  className?: string | ((row: Row) => string);
  title?: (row: Row) => string | undefined;
}

interface TableProps<Row> {
  /** What it is called in the page's structure: `watches`. */
  name: string;
  columns: readonly Column<Row>[];
  rows: readonly Row[];
  keyOf: (row: Row) => string | number;
  /** Rows that go together stand under a heading; they come one after another. */
  groupOf?: (row: Row) => string;
  /** The headings stand back behind the rows, where groups are small and many. */
  quietGroups?: boolean;
  /** The row that is looked at. */
  isCurrent?: (row: Row) => boolean;
  className?: string;
  /** It is so high at most, as a class, and scrolls in its place: a long one is drawn as far as it is seen. */
  most?: `max-h-${string}`;
}

const sided = (side: Column<never>['side'] = 'left') => (side === 'right' ? 'text-right' : 'text-left');
const wideOnly = (wide = false) => (wide ? ' wide' : '');

/** A list as a table. On a narrow screen its wide columns go, and what is left fits. */
export function Table<Row>(props: TableProps<Row>) {
  const { name, columns, rows, groupOf, most, className = '' } = props;
  const place = useRef<HTMLDivElement>(null);
  const named = { [`data-${name}`]: '' };
  const isLong = rows.length > MOST_DRAWN && groupOf === undefined && most !== undefined;
  return (
    <div ref={place} className={`overflow-auto ${most ?? ''} ${className}`}>
      <table className="list" aria-rowcount={isLong ? rows.length + 1 : undefined} {...named}>
        <thead>
          <tr>
            {columns.map(({ head, side, wide }, at) => (
              <th key={at} className={`head-cell ${sided(side)}${wideOnly(wide)}`}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>{isLong ? <SeenRows {...props} place={place} /> : <AllRows {...props} />}</tbody>
      </table>
    </div>
  );
}

const MOST_DRAWN = 80;

function AllRows<Row>({ columns, rows, keyOf, groupOf, quietGroups = false, isCurrent }: TableProps<Row>) {
  return rows.map((row, at) => (
    <Fragment key={keyOf(row)}>
      <GroupHead
        group={groupOf?.(row)}
        before={at === 0 ? undefined : groupOf?.(rows[at - 1] as Row)}
        columns={columns.length}
        quiet={quietGroups}
      />
      <tr aria-current={isCurrent?.(row) === true ? 'true' : undefined}>
        <Cells columns={columns} row={row} />
      </tr>
    </Fragment>
  ));
}

/** How high a row is before it is drawn, and the place, in px. */
const ROW_PX = 33;
const PLACE_PX = 480;
const BEYOND_SIGHT = 15;

/** The rows that are in sight, and some beyond; what is above and below them keeps its room. */
function SeenRows<Row>({
  columns,
  rows,
  keyOf,
  isCurrent,
  place,
}: TableProps<Row> & { place: RefObject<HTMLDivElement | null> }) {
  const rowsSeen = useVirtualizer({
    count: rows.length,
    getScrollElement: () => place.current,
    estimateSize: () => ROW_PX,
    overscan: BEYOND_SIGHT,
    initialRect: { width: PLACE_PX, height: PLACE_PX },
  });
  const seen = rowsSeen.getVirtualItems();
  const [above, below] = [seen[0]?.start ?? 0, rowsSeen.getTotalSize() - (seen.at(-1)?.end ?? 0)];
  return (
    <>
      <Room px={above} columns={columns.length} />
      {seen.map(({ index }) => {
        const row = rows[index] as Row;
        return (
          <tr
            key={keyOf(row)}
            ref={rowsSeen.measureElement}
            data-index={index}
            aria-rowindex={index + 2}
            aria-current={isCurrent?.(row) === true ? 'true' : undefined}
          >
            <Cells columns={columns} row={row} />
          </tr>
        );
      })}
      <Room px={below} columns={columns.length} />
    </>
  );
}

const Room = ({ px, columns }: { px: number; columns: number }) =>
  px <= 0 ? null : (
    <tr aria-hidden="true">
      <td colSpan={columns} style={{ height: px, padding: 0 }} />
    </tr>
  );

const Cells = <Row,>({ columns, row }: Pick<TableProps<Row>, 'columns'> & { row: Row }) =>
  columns.map((column, each) => <Cell key={each} column={column} row={row} />);

/** The heading of rows that go together, above the first of them. */
function GroupHead({
  group,
  before,
  columns,
  quiet,
}: {
  group: string | undefined;
  before: string | undefined;
  columns: number;
  quiet: boolean;
}) {
  if (group === undefined || group === before) return null;
  return (
    <tr data-group>
      <th
        colSpan={columns}
        scope="colgroup"
        className={
          quiet
            ? 'pt-2.5 text-left text-glance font-normal text-third'
            : 'border-b border-rule pt-4 pb-1 text-left font-serif text-head font-medium'
        }
      >
        {group}
      </th>
    </tr>
  );
}

function Cell<Row>({ column, row }: { column: Column<Row>; row: Row }) {
  const { cell, side, wide, className, title } = column;
  const own = typeof className === 'function' ? className(row) : className;
  return (
    <td
      className={`cell${side === 'right' ? ' text-right' : ''}${wideOnly(wide)}${own === undefined || own === '' ? '' : ` ${own}`}`}
      title={title?.(row)}
    >
      {cell(row)}
    </td>
  );
}
