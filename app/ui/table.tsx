import type { ReactNode } from 'react';

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
  /** The row that is looked at. */
  isCurrent?: (row: Row) => boolean;
  /** Its head stays in sight while it scrolls in its place. */
  className?: string;
}

const sided = (side: Column<never>['side'] = 'left') => (side === 'right' ? 'text-right' : 'text-left');
const wideOnly = (wide = false) => (wide ? ' wide' : '');

/** A list as a table. On a narrow screen its wide columns go, and what is left fits. */
export function Table<Row>({ name, columns, rows, keyOf, isCurrent, className = '' }: TableProps<Row>) {
  const named = { [`data-${name}`]: '' };
  return (
    <div className={`overflow-auto ${className}`}>
      <table className="list" {...named}>
        <thead>
          <tr>
            {columns.map(({ head, side, wide }, at) => (
              <th key={at} className={`head-cell ${sided(side)}${wideOnly(wide)}`}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={keyOf(row)} aria-current={isCurrent?.(row) === true ? 'true' : undefined}>
              {columns.map((column, at) => (
                <Cell key={at} column={column} row={row} />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
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
