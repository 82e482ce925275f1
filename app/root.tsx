import { setNonce } from 'get-nonce';
import { isRouteErrorResponse, Links, Meta, Outlet, Scripts, ScrollRestoration } from 'react-router';
import type { Route } from './+types/root';
import './app.css';

// What a dialog adds to the page's style bears the page's own word: no other is taken.
if (typeof document !== 'undefined') {
  const nonce = document.querySelector<HTMLScriptElement>('script[nonce]')?.nonce;
  if (nonce) setNonce(nonce);
}

export function Layout({ children }: { children: React.ReactNode }) {
  return (
    <html lang="en-GB">
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <link rel="icon" href="/favicon.svg" type="image/svg+xml" />
        <Meta />
        <Links />
      </head>
      <body>
        {children}
        <ScrollRestoration />
        <Scripts />
      </body>
    </html>
  );
}

export const meta: Route.MetaFunction = () => [{ title: 'Shrike' }];

export default function App() {
  return <Outlet />;
}

const SENTENCES: Record<number, { title: string; said: string }> = {
  401: {
    title: 'Nobody is signed in',
    said: 'Your session has ended, or there was none. Ask whoever runs Shrike for a way in.',
  },
  403: {
    title: 'Not for this account',
    said: 'Your account may not see or do this. Whoever owns this Shrike can, or can give it to you.',
  },
  404: {
    title: 'Not here',
    said:
      'It may have been deleted, or the address was cut short. The briefing and the list of watches lead to all ' +
      'there is.',
  },
};

const FAILED = {
  title: 'Shrike could not make this page',
  said:
    'Nothing was lost: what is recorded stays recorded. Load the page again; if it stays like this, look at the ' +
    'log of the web process.',
};

export function ErrorBoundary({ error }: Route.ErrorBoundaryProps) {
  const { title, said } = (isRouteErrorResponse(error) ? SENTENCES[error.status] : undefined) ?? FAILED;
  return (
    <main className="mx-auto max-w-xl px-6 py-20">
      <h1 className="font-serif text-lead font-medium">{title}</h1>
      <p className="mt-3 text-second">{said}</p>
      <a className="link mt-4 inline-block" href="/">
        Back to the briefing
      </a>
    </main>
  );
}
