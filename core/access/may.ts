import type { AccountId, PersonId } from '../id';

/** What an account may do. There is one today: whoever owns this Shrike. */
type Role = 'owner';

/** Who asks for something. */
export interface Actor {
  /** Null where the configuration, and no session, says who asks. */
  account: AccountId | null;
  /** Who she is as a reader. */
  person: PersonId;
  role: Role;
}

/** What is done to a thing: looked at, brought into being, changed in any way, or taken away. */
export type Act = 'see' | 'make' | 'change' | 'end';

/** What something is done to. */
export type Thing =
  | { kind: 'briefing' | 'raised' | 'watch' | 'site' | 'host' | 'outbox' | 'item' | 'history' | 'report' | 'person' }
  /** That somebody may sign in. */
  | { kind: 'account' }
  /** A half-made watch is its maker's alone. Null: one that is not made yet. */
  | { kind: 'draft'; maker: PersonId | null };

const RIGHTS: ReadonlyMap<Role, Readonly<Record<Thing['kind'], readonly Act[]>>> = new Map([
  [
    'owner',
    {
      briefing: ['see'],
      raised: ['see', 'change'],
      watch: ['see', 'make', 'change', 'end'],
      site: ['see', 'change'],
      host: ['see', 'change'],
      outbox: ['see', 'change'],
      item: ['see', 'make', 'change', 'end'],
      history: ['see'],
      report: ['see', 'make', 'change', 'end'],
      person: ['see', 'make', 'change', 'end'],
      account: ['make', 'end'],
      draft: ['see', 'make', 'change', 'end'],
    },
  ],
]);

/** Whether somebody may do something. Whatever is not said here, nobody may. */
export function may({ role, person }: Actor, deed: Act, thing: Thing): boolean {
  if (thing.kind === 'draft' && thing.maker !== null && thing.maker !== person) return false;
  return RIGHTS.get(role)?.[thing.kind].includes(deed) ?? false;
}
