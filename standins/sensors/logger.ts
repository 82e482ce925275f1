import { createHmac, randomUUID } from 'node:crypto';
import type { World } from '../world/world';
import { pack } from './gateway';

const ANSWER_SHOWN = 300;
const PATIENCE_MS = 10_000;

/**
 * Posts the sensors' readings of now to a signed address of Shrike's, as a logger in the field would; says what came of
 * it.
 */
export async function postReadings(
  world: World,
  shrike: string | null,
  address: string,
  secret: string,
): Promise<string> {
  if (!URL.canParse(address)) return `“${address}” is no address to post to.`;
  const { origin, pathname } = new URL(address);
  if (shrike === null || origin !== new URL(shrike).origin || !pathname.startsWith('/in/'))
    return `The logger posts to Shrike alone: to an address such as ${shrike ?? 'http://localhost:4600'}/in/…`;
  const [id, time, body] = [randomUUID(), String(Math.floor(world.clock() / 1000)), pack(world)];
  const signature = createHmac('sha256', secret).update(`${id}.${time}.${body}`).digest('hex');
  const headers = {
    'content-type': 'application/senml+json',
    'shrike-message-id': id,
    'shrike-time': time,
    'shrike-signature': `sha256=${signature}`,
  };
  try {
    const answered = await fetch(address, {
      method: 'POST',
      body,
      headers,
      redirect: 'error',
      signal: AbortSignal.timeout(PATIENCE_MS),
    });
    return `Answered ${answered.status}: ${(await answered.text()).slice(0, ANSWER_SHOWN)}`;
  } catch (error) {
    return `No answer: ${error instanceof Error ? error.message : 'it failed'}.`;
  }
}
