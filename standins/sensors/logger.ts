import { createHmac, randomUUID } from 'node:crypto';
import type { World } from '../world/world';
import { pack } from './gateway';

/** Posts the sensors' readings of now to a signed address, as a logger in the field would; says what came of it. */
export async function postReadings(world: World, address: string, secret: string): Promise<string> {
  if (!URL.canParse(address)) return `“${address}” is no address to post to.`;
  const [id, time, body] = [randomUUID(), String(Math.floor(world.clock() / 1000)), pack(world)];
  const signature = createHmac('sha256', secret).update(`${id}.${time}.${body}`).digest('hex');
  const headers = {
    'content-type': 'application/senml+json',
    'shrike-message-id': id,
    'shrike-time': time,
    'shrike-signature': `sha256=${signature}`,
  };
  try {
    const answered = await fetch(address, { method: 'POST', body, headers });
    return `Answered ${answered.status}: ${await answered.text()}`;
  } catch (error) {
    return `No answer: ${error instanceof Error ? error.message : 'it failed'}.`;
  }
}
