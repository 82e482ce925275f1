/**
 * Opens something when it is first asked for, once however many ask; what could not be opened, as while the database is
 * away, is tried again.
 */
export function openedOnce<Opened>(open: () => Promise<Opened>): () => Promise<Opened> {
  let opened: Promise<Opened> | null = null;
  return () =>
    (opened ??= open().catch((error: unknown) => {
      opened = null;
      throw error;
    }));
}
