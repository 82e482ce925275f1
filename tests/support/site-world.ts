import { afterAll, beforeAll } from 'vitest';
import { openSite, type Answer, type Site } from './site';
import { openWorld, type TestWorld } from './world';

/** Opens a site and a Shrike that may read it before the tests of a file, hands both on, and closes them after. */
export function besideSite(answers: Record<string, Answer>, onOpen: (site: Site, world: TestWorld) => void): void {
  let close = async () => {};
  beforeAll(async () => {
    const site = await openSite(answers);
    const world = await openWorld({ SHRIKE_ADMITTED: site.host });
    close = async () => {
      site.close();
      await world.close();
    };
    onOpen(site, world);
  });
  afterAll(() => close());
}
