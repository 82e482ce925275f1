import { AsyncLocalStorage } from 'node:async_hooks';

const asker = new AsyncLocalStorage<string>();

/** Does something for whoever asks: what is computed meanwhile is hers, however deep within. */
export const asAsked = <T>(by: string, work: () => T): T => asker.run(by, work);

/** For whom something is done just now; null where nobody asked. */
export const whoAsks = (): string | null => asker.getStore() ?? null;
