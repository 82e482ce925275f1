import type { Instant } from '#core/when/interval';

/** From when to when something was read. */
export interface Span {
  since: Instant;
  until: Instant;
}
