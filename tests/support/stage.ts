import { request } from 'undici';

/** Makes something happen on the stage, as its forms do. */
export async function onStage(standinsPort: number, what: string, value: string, slug: string): Promise<void> {
  const response = await request(`http://127.0.0.1:${standinsPort}/push`, {
    method: 'POST',
    headers: { host: `stage.localhost:${standinsPort}`, 'content-type': 'application/x-www-form-urlencoded' },
    body: new URLSearchParams({ what, slug, value }).toString(),
  });
  await response.body.dump();
  if (response.statusCode !== 303) throw new Error(`the stage refused ${what} ${value} of ${slug}`);
}
