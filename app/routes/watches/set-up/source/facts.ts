import type { PreviewId } from '#core/id';
import type { SourceRequest } from '#server/fetch/request';
import type { Instant } from '#core/when/interval';

/** What is known of the source while it is set up. */
export interface SourceFacts {
  address: string;
  site: string;
  title: string | null;
  locale: string | null;
  format: string;
  isPage: boolean;
  fetchedAt: Instant | null;
  size: number;
  way: 'plain' | 'rendered' | 'posted';
  request: SourceRequest;
  /** What is done in the browser before the page is read, in words. */
  steps: string[];
  /** Of a source that is posted to: whether messages can be signed yet. */
  hasSecret: boolean;
  /** Which way the page needs, when both were seen. */
  needed: { way: 'plain' | 'rendered'; said: string } | null;
  rendering: 'none' | 'asked' | 'done' | 'failed';
  renderProblem: string | null;
  tried: {
    lookId: PreviewId;
    pending: boolean;
    problem: string | null;
    steps: { place: number; said: string; problem: string | null }[];
  } | null;
}
