import type { Audience } from '#server/db/person/people';
import type { Choosable } from '#server/db/report/views/choosable';
import type { SiteNow } from '#server/db/source/sites';
import type { Names } from './names.server';

/** What can be chosen in a standing order, and what it is called. */
export interface Known extends Choosable {
  audiences: Audience[];
  sites: Pick<SiteNow, 'id' | 'name' | 'kind'>[];
  tags: string[];
  names: Names;
  /** How many mails may go out, each bound in words. */
  bounds: string[];
}
