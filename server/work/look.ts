import type { Instant } from '#core/when/interval';
import { findLook, keepLook, keepLookSteps } from '../db/looks';
import type { Pool } from '../db/pool';
import { describeFetchProblem } from '../fetch/problem';
import type { Renderer } from '../fetch/rendered/renderer';
import { addressOf } from '../fetch/request';
import type { LookJob } from './jobs';

/** What a look works with. */
export interface Looking {
  pool: Pool;
  renderer: Renderer;
  clock: () => Instant;
}

/** Takes one look in the browser for a watch that is being set up, and keeps what it brought. */
export async function takeLook({ pool, renderer, clock }: Looking, { look: id }: LookJob): Promise<void> {
  const look = await findLook(pool, id);
  if (look === null || look.state !== 'asked') return;
  const request = { address: addressOf(look.address, look.request), steps: look.request.steps ?? [] };
  if (look.purpose === 'steps') {
    const tried = await renderer.trySteps(request);
    if (tried.ok) await keepLookSteps(pool, id, tried.value);
    return keepLook(pool, id, { problem: tried.ok ? null : describeFetchProblem(tried.error) }, clock());
  }
  const rendered = await renderer.render(request);
  if (!rendered.ok) return keepLook(pool, id, { problem: describeFetchProblem(rendered.error) }, clock());
  const { picture, finalAddress } = rendered.value;
  await keepLook(
    pool,
    id,
    { problem: null, body: rendered.value.body(), finalAddress, image: picture?.image, height: picture?.height, boxes: picture?.boxes },
    clock(),
  );
}
