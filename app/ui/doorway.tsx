import type { ReactNode } from 'react';

/** A page before one is signed in: one column, one thing to do. */
export function Doorway({ title, children }: { title: string; children: ReactNode }) {
  return (
    <main className="mx-auto max-w-lg px-6 py-16">
      <p className="flex items-center gap-2.5 font-serif text-day font-medium">
        <img src="/favicon.svg" alt="" width="27" height="20" />
        Shrike
      </p>
      <h1 className="mt-8 border-b-2 border-ink pb-2 font-serif text-lead font-medium">{title}</h1>
      {children}
    </main>
  );
}
