import type { PersonId } from '#core/id';
import { DAY, type Instant } from '#core/when/interval';
import type { Secrets } from './secrets';

/** What a link of a mail says: which alert it told of, whom it was sent to, and until when it may be used. */
export interface TakeOn {
  alert: number;
  person: PersonId;
  until: Instant;
}

/** How long a link in a mail may be used. */
const LASTS = 14 * DAY;

/** What links are sealed for: a secret of another kind opens none of them. */
const PURPOSE = 'take on';

const TOKEN = /^[\w-]{40,400}$/;

/** Links of mails that open a page where something can be done, without signing in: sealed under the key of the configuration, and ending. */
export class Links {
  constructor(
    private readonly secrets: Pick<Secrets, 'seal' | 'open'>,
    private readonly publicUrl: string,
  ) {}

  /** The address at which a person can take on what an alert told of; null where there is no key to seal it with. */
  takeOn(alert: number, person: PersonId, now: Instant): string | null {
    const sealed = this.secrets.seal(JSON.stringify([alert, person, now + LASTS]), PURPOSE);
    return sealed.ok ? `${this.publicUrl}/take/${Buffer.from(sealed.value.sealed, 'base64').toString('base64url')}` : null;
  }

  /** What a link says; null where it is none of ours. */
  open(token: string): TakeOn | null {
    if (!TOKEN.test(token)) return null;
    const text = this.secrets.open({ sealed: Buffer.from(token, 'base64url').toString('base64') }, PURPOSE);
    const [alert, person, until] = (text === null ? [] : JSON.parse(text)) as (number | undefined)[];
    return alert === undefined || person === undefined || until === undefined ? null : { alert, person: person as PersonId, until };
  }
}
