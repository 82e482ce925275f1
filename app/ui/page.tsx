import { Fragment, type ReactNode } from 'react';
import { Link } from 'react-router';

/** The head of a view: where she is on the left, what she can do on the right, and the one heavy rule below. */
export function PageHead({ children, actions }: { children: ReactNode; actions?: ReactNode }) {
  return (
    <header className="flex min-h-[54px] flex-wrap items-center justify-between gap-x-6 gap-y-2 border-b-2 border-ink py-2.5">
      <div className="flex min-w-0 flex-wrap items-baseline gap-x-3.5">{children}</div>
      {actions === undefined ? null : <div className="flex flex-wrap items-center gap-2.5">{actions}</div>}
    </header>
  );
}

/** Where a page stands: what it is in, from the outermost on, each with the way there, and its own name. */
export function Where({ within, children }: { within: { name: string; to: string }[]; children: ReactNode }) {
  return (
    <nav aria-label="Where this is" className="text-second">
      {within.map(({ name, to }) => (
        <Fragment key={to}>
          <Link className="link" to={to}>
            {name}
          </Link>{' '}
          /{' '}
        </Fragment>
      ))}
      {children}
    </nav>
  );
}

/** A part of a view, under its own serif head. */
export function Section({
  title,
  aside,
  children,
  className = '',
}: {
  title: ReactNode;
  aside?: ReactNode;
  children: ReactNode;
  className?: string;
}) {
  return (
    <section className={className}>
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 className="font-serif text-head font-medium">{title}</h2>
        {aside === undefined ? null : <div className="text-glance text-third">{aside}</div>}
      </div>
      {children}
    </section>
  );
}

/** What a view says when it has nothing to show. */
export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="max-w-xl py-10">
      <p className="font-serif text-day font-medium">{title}</p>
      <div className="mt-2 text-second">{children}</div>
    </div>
  );
}
