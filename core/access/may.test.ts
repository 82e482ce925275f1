import type { AccountId, PersonId } from '../id';
import { numbered } from '../../tests/support/numbered';
import { describe, expect, it } from 'vitest';
import { may, type Actor, type Act } from './may';

const owner: Actor = { account: numbered<AccountId>(1), person: numbered(7), role: 'owner' };
const DEEDS: Act[] = ['see', 'make', 'change', 'end'];

describe('what somebody may do', () => {
  it('is, for the owner, everything there is to do to a watch', () => {
    expect(DEEDS.map((deed) => may(owner, deed, { kind: 'watch' }))).toEqual([true, true, true, true]);
  });

  it('ends at the drafts of others', () => {
    expect(may(owner, 'see', { kind: 'draft', maker: numbered<PersonId>(7) })).toBe(true);
    for (const deed of DEEDS) expect(may(owner, deed, { kind: 'draft', maker: numbered<PersonId>(8) })).toBe(false);
  });

  it('is what is said and no more: nobody ends the outbox or makes a briefing', () => {
    expect([
      may(owner, 'end', { kind: 'outbox' }),
      may(owner, 'make', { kind: 'briefing' }),
      may(owner, 'end', { kind: 'host' }),
    ]).toEqual([false, false, false]);
  });

  it('is for the owner to let others sign in, and to end that', () => {
    expect(DEEDS.map((deed) => may(owner, deed, { kind: 'account' }))).toEqual([false, true, false, true]);
  });

  it('is nothing for a role that is not known', () => {
    for (const deed of DEEDS) expect(may({ ...owner, role: 'stranger' as never }, deed, { kind: 'watch' })).toBe(false);
  });
});
