import type { PersonId, ReportId } from '#core/id';
import { DAY, type Instant } from '#core/when/interval';
import type { LinkPurpose, Secrets } from './secrets';

/** What a link of a mail says: which alert it told of, whom it was sent to, and until when it may be used. */
export interface TakeOn {
  alert: number;
  person: PersonId;
  until: Instant;
}

/** That an address is hers: a link that was sent to another address says nothing of this one. */
interface Confirms {
  person: PersonId;
  address: string;
  until: Instant;
}

/** That somebody was invited to sign in with an address. */
export interface Invites extends Confirms {
  invitedAt: Instant;
}

/** How long a link that takes an episode on, or confirms an address, may be used. */
const LASTS = 14 * DAY;
/** How long an invitation stands. */
export const INVITED_LASTS = 7 * DAY;
/** How long a report can be left by the link of a mail. */
const LEAVE_LASTS = 730 * DAY;
/** How long the page of a reader is open by the link of a mail. */
const PAGE_LASTS = 90 * DAY;

/** Links that went out before each kind had a key of its own open until then. */
const FORMER_UNTIL = Date.UTC(2027, 2, 1);

const TOKEN = /^[\w-]{40,800}$/;

/**
 * Links of mails that open a page where something can be done, without signing in: sealed under the key of the
 * configuration. Those that last are under a number that whoever they are of can have counted on, which ends them.
 */
export class Links {
  constructor(
    private readonly secrets: Pick<Secrets, 'seal' | 'open' | 'openFormerLink'>,
    private readonly publicUrl: string,
    private readonly clock: () => Instant,
  ) {}

  /**
   * The address at which a person can take on what an alert told of; null, here and below, where there is no key to
   * seal it with.
   */
  takeOn(alert: number, person: PersonId, now: Instant): string | null {
    return this.#seal('take', 'take on', [alert, person, now + LASTS]);
  }

  /** What a link says; null, here and below, where it is none of ours. */
  open(token: string): TakeOn | null {
    const [alert, person, until] = this.#open<number>(token, 'take on', 3);
    return alert === undefined || person === undefined || until === undefined
      ? null
      : { alert, person: person as PersonId, until };
  }

  /** The address at which a person confirms that an address is hers, and until when. */
  confirm(person: PersonId, address: string, now: Instant): { link: string; until: Instant } | null {
    const until = now + LASTS;
    const link = this.#seal('confirm', 'confirm', [person, address, until]);
    return link === null ? null : { link, until };
  }

  openConfirm(token: string): Confirms | null {
    const [person, address, until] = this.#open<number | string>(token, 'confirm', 3);
    return typeof person === 'number' && typeof address === 'string' && typeof until === 'number'
      ? { person: person as PersonId, address, until }
      : null;
  }

  /**
   * The address at which a person who was invited chooses a password, and until when. It bears when she was, since only
   * the last one counts.
   */
  invite(person: PersonId, address: string, invitedAt: Instant): { link: string; until: Instant } | null {
    const link = this.#seal('invited', 'invite', [person, address, invitedAt]);
    return link === null ? null : { link, until: invitedAt + INVITED_LASTS };
  }

  openInvite(token: string): Invites | null {
    const [person, address, invitedAt] = this.#open<number | string>(token, 'invite', 3);
    return typeof person === 'number' && typeof address === 'string' && typeof invitedAt === 'number'
      ? { person: person as PersonId, address, invitedAt, until: invitedAt + INVITED_LASTS }
      : null;
  }

  /** The address at which a person leaves a report, under the number that her own page has now. */
  leave(report: ReportId, person: PersonId, page: number, now: Instant): string | null {
    return this.#seal('leave', 'leave', [report, person, page, now + LEAVE_LASTS]);
  }

  openLeave(token: string): { report: ReportId; person: PersonId; page: number } | null {
    const [report, person, page = 1, until = FORMER_UNTIL] = this.#open<number>(token, 'leave', 4, 2);
    return report === undefined || person === undefined || until < this.clock()
      ? null
      : { report: report as ReportId, person: person as PersonId, page };
  }

  /** The address of a person's own page, under the number that it has now. */
  ownPage(person: PersonId, page: number, now: Instant): string | null {
    return this.#seal('reader', 'own page', [person, page, now + PAGE_LASTS]);
  }

  openOwnPage(token: string): { person: PersonId; page: number; until: Instant } | null {
    const [person, page, until] = this.#open<number>(token, 'own page', 3);
    return person === undefined || page === undefined || until === undefined
      ? null
      : { person: person as PersonId, page, until };
  }

  /** The address of a report's feed, under the number that it has now. */
  feed(report: ReportId, number: number): string | null {
    return this.#seal('feed', 'feed', [report, number]);
  }

  openFeed(token: string): { report: ReportId; number: number } | null {
    const [report, number = 1] = this.#open<number>(token, 'feed', 2, 1);
    return report === undefined ? null : { report: report as ReportId, number };
  }

  #seal(path: string, purpose: LinkPurpose, said: (number | string)[]): string | null {
    const sealed = this.secrets.seal(JSON.stringify(said), purpose, '');
    return sealed.ok
      ? `${this.publicUrl}/${path}/${Buffer.from(sealed.value.sealed, 'base64').toString('base64url')}`
      : null;
  }

  /** What a link says, in so many parts; one of before in as many as it had then, for as long as such are honoured. */
  #open<Part>(token: string, purpose: LinkPurpose, parts: number, formerParts = parts): Part[] {
    if (!TOKEN.test(token)) return [];
    const sealed = { sealed: Buffer.from(token, 'base64url').toString('base64') };
    const own = this.secrets.open(sealed, purpose, '');
    if (own !== null) return partsOf(own, parts);
    const former = this.clock() < FORMER_UNTIL ? this.secrets.openFormerLink(sealed, purpose) : null;
    return former === null ? [] : partsOf(former, formerParts);
  }
}

/** What a text says as JSON; null where it is none: before each kind had a key, other secrets opened as links. */
function read(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

/** What was sealed, where it is so many parts. */
function partsOf<Part>(text: string, parts: number): Part[] {
  const said = read(text);
  return Array.isArray(said) && said.length === parts ? (said as Part[]) : [];
}
