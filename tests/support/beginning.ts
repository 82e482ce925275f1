import type { Instant } from '#core/when/interval';

/** The moment at which a test's world begins, or stands still. */
export const BEGINNING: Instant = Date.UTC(2026, 5, 1, 9);
