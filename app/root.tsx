import { isRouteErrorResponse, Links, Meta, Outlet, Scripts, ScrollRestoration } from 'react-router';
import type { Route } from './+types/root';
import './app.css';

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

export function ErrorBoundary({ error }: Route.ErrorBoundaryProps) {
  const status = isRouteErrorResponse(error) ? error.status : 500;
  return (
    <main className="mx-auto max-w-xl px-6 py-20">
      <h1 className="font-serif text-lead font-medium">{status === 401 ? 'Nobody is signed in' : 'Shrike could not make this page'}</h1>
      <p className="mt-3 text-second">
        {status === 401
          ? 'Your session has ended, or there was none. Ask whoever runs Shrike for a way in.'
          : 'Nothing was lost: what is recorded stays recorded. Load the page again; if it stays like this, look at the log of the web process.'}
      </p>
      <a className="link mt-4 inline-block" href="/">
        Back to the briefing
      </a>
    </main>
  );
}
