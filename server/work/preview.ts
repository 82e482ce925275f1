import type { Instant } from '#core/when/interval';
import { plainBodyOf, renderDraft } from '../db/watch/drafts';
import { beginPreview, storePreview, storePreviewSteps, type BegunPreview } from '../db/source/previews';
import type { Pool } from '../db/base/pool';
import { describeFetchProblem } from '../fetch/problem';
import type { Renderer } from '../fetch/rendered/renderer';
import { openRequest, type Opener } from '../fetch/request';
import { redact } from '../fetch/rendered/redact';
import { bodyOf, type ReadingPool } from '../reading/pool';
import type { PreviewJob } from './jobs';

/** What a run works with. */
export interface Previewing {
  pool: Pool;
  renderer: Renderer;
  reading: ReadingPool;
  open: Opener;
  clock: () => Instant;
}

const MOST_BEGUN = 2;
const ENDED_TWICE =
  'Twice the worker came to an end while it opened this page, so it is not tried again. The log of the worker ' +
  'says more.';

/**
 * Takes one run in the browser for a watch that is being set up, and keeps what it brought. Returns the draft; null
 * where the look is not wanted any more.
 */
export async function takePreview(looking: Previewing, { look: id }: PreviewJob): Promise<number | null> {
  const look = await beginPreview(looking.pool, id);
  if (look !== null) await preview(looking, look);
  return look?.draftId ?? null;
}

async function preview(looking: Previewing, look: BegunPreview): Promise<void> {
  const { pool, renderer, open, clock } = looking;
  const { id } = look;
  if (look.begun > MOST_BEGUN) return storePreview(pool, id, { problem: ENDED_TWICE }, clock());
  const opened = openRequest(look.address, look.request, open);
  if (opened === null) return storePreview(pool, id, { problem: describeFetchProblem({ reason: 'sealed' }) }, clock());
  const request = { address: opened.address, steps: look.request.steps ?? [] };
  if (look.purpose === 'steps') {
    const tried = await renderer.trySteps(request);
    if (tried.ok) await storePreviewSteps(pool, id, tried.value);
    return storePreview(pool, id, { problem: tried.ok ? null : describeFetchProblem(tried.error) }, clock());
  }
  const rendered = await renderer.render(request);
  if (!rendered.ok) return storePreview(pool, id, { problem: describeFetchProblem(rendered.error) }, clock());
  const { picture } = rendered.value;
  const body = rendered.value.body();
  if (look.purpose === 'page') await renderWhereNeeded(looking, look, body);
  const finalAddress = redact(rendered.value.finalAddress, opened.secrets);
  await storePreview(
    pool,
    id,
    { problem: null, body, finalAddress, image: picture?.image, height: picture?.height, boxes: picture?.boxes },
    clock(),
  );
}

/** Has the draft rendered where the browser shows what a plain fetch lacks, and nobody has said otherwise. */
async function renderWhereNeeded(
  { pool, reading }: Previewing,
  { draftId }: BegunPreview,
  rendered: string,
): Promise<void> {
  const fetched = await plainBodyOf(pool, draftId);
  if (fetched === null) return;
  const [plain, shown] = [bodyOf(fetched), bodyOf(rendered)];
  const asked = { plain: { key: plain.key, receivedAt: 0 }, shown: { key: shown.key, receivedAt: 0 } };
  const needed = await reading.run('way needed', asked, [plain, shown]);
  if (needed.ok && needed.value?.way === 'rendered') await renderDraft(pool, draftId);
}
