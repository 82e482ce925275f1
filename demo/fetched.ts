import { openBody, sniffFormat, type Body } from '#core/read/body';
import type { Instant } from '#core/when/interval';
import type { SourceRequest } from '#server/fetch/request';
import type { SourceFetcher } from '#server/fetch/source-fetcher';

/** What a source brings now, opened. */
export async function fetchBody(
  sources: Pick<SourceFetcher, 'fetch'>,
  source: { address: string; way: 'plain' | 'rendered'; request: SourceRequest },
  now: Instant,
): Promise<Body> {
  const fetched = await sources.fetch({ ...source, robotsHeeded: true });
  if (!fetched.ok || fetched.value.kind !== 'page')
    throw new Error(`${source.address}: ${fetched.ok ? 'nothing came' : fetched.error.reason}`);
  const text = fetched.value.body();
  const body = openBody(text, sniffFormat(text), now);
  if (!body.ok) throw new Error(`${source.address}: ${body.error}`);
  return body.value;
}
