import type { Instant } from '#core/when/interval';
import type { Pool } from '../db/base/pool';
import type { Log } from '../log';
import type { MailPictures } from '../rendered-images/mail-pictures';
import type { Secrets } from '../secrets';
import type { JobQueue } from '../work/jobs';
import type { Mailer } from './mail';
import type { Webhooks } from './webhook';

/** The moments of a delivery that others may watch. */
type DeliveryStep = 'taken' | 'begun' | 'accepted' | 'recorded';

/** What delivering works with. */
export interface Post {
  pool: Pool;
  jobs: JobQueue;
  mailer: Mailer;
  /** Draws what mails show. */
  pictures: MailPictures;
  webhooks: Webhooks;
  secrets: Pick<Secrets, 'derive'>;
  /** What makes a mail address of a phone number: the domain of the gateway; null where there is none. */
  textGateway: string | null;
  mailDomain: string;
  clock: () => Instant;
  log: Log;
  firstRetryMs: number;
  longestRetryMs: number;
  giveUpMs: number;
  /** How long an attempt is one worker's alone; it is over well before. */
  leaseMs: number;
  onStep?: (step: DeliveryStep) => Promise<void>;
}
