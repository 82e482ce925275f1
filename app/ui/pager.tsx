import { Link, useSearchParams } from 'react-router';

interface PagerProps {
  /** The name in the address that says which page, from nought. */
  param: string;
  page: number;
  size: number;
  count: number;
  locale: string;
}

/** Which of many rows are shown, with ways to those before and after; nothing where all are. */
export function Pager({ param, page, size, count, locale }: PagerProps) {
  const [asked] = useSearchParams();
  if (count <= size) return null;
  const to = (next: number) => {
    const address = new URLSearchParams(asked);
    address.set(param, String(next));
    return `?${address.toString()}`;
  };
  const last = Math.ceil(count / size) - 1;
  const [from, until] = [page * size + 1, Math.min(count, (page + 1) * size)].map((row) => row.toLocaleString(locale));
  return (
    <nav aria-label="Pages of rows" className="flex items-baseline gap-4 pt-2 text-glance text-third" data-pager>
      {page === 0 ? null : (
        <Link className="link" to={to(page - 1)} preventScrollReset replace>
          Earlier
        </Link>
      )}
      <span>
        {from} to {until} of {count.toLocaleString(locale)}
      </span>
      {page >= last ? null : (
        <Link className="link" to={to(page + 1)} preventScrollReset replace>
          Later
        </Link>
      )}
    </nav>
  );
}

interface OnwardProps {
  /** The address of the first page, where another is shown; that of the next, where there is one. */
  first: string | null;
  next: string | null;
  size: number;
  /** Of what, where that is not the rows that are seen. */
  of?: string;
}

/** Ways through a list that nobody counts: to what follows, and back to its beginning. */
export function Onward({ first, next, size, of }: OnwardProps) {
  if (first === null && next === null) return null;
  const many = of === undefined ? String(size) : `${size} ${of}`;
  return (
    <nav aria-label="Pages of rows" className="flex items-baseline gap-4 pt-2 text-glance text-third" data-pager>
      {first === null ? null : (
        <Link className="link" to={first}>
          The first {many}
        </Link>
      )}
      {next === null ? null : (
        <Link className="link" to={next}>
          The next {many}
        </Link>
      )}
    </nav>
  );
}
