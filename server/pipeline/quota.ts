import type { DeliveryId, PersonId } from '#core/id';
import { quotaMail, isNearlySpent, type Spending } from '#core/tell/quota';
import { MINUTE, type Instant } from '#core/when/interval';
import { checked, nextCheck, notNotifiedYet, spendings } from '../db/delivery/quotas';
import { findPersonById, placeOf } from '../db/person/people';
import { writeAndCommit, type Db, type Statement } from '../db/base/pool';
import { takeDue } from './claim';
import type { Keeping } from './keeping';
import { orderLetter } from './order/letter';

// Who set how much may go out is told once before it is spent (25).

/** Looks at what is spent, and orders the mails that say so; null where it was looked at a moment ago. */
export function warnOfQuotas(pipeline: Keeping, now: Instant): Promise<number | null> {
  return takeDue<{ due: number }, number>(pipeline, {
    due: nextCheck(now),
    work: async (db) => {
      const fresh = await notNotifiedYet(db, (await spendings(db, now)).filter(isNearlySpent), now);
      const owners = [...new Set(fresh.map(({ owner }) => owner))];
      const mails: Statement[] = [];
      for (const owner of owners)
        mails.push(
          ...(await warn(
            pipeline,
            db,
            owner,
            fresh.filter((each) => each.owner === owner),
            now,
          )),
        );
      await writeAndCommit(db, [...mails, checked(now)]);
      return owners.length;
    },
    layBy: () => ({ statement: checked(now + MINUTE), of: {}, said: 'what is spent could not be looked at', done: 0 }),
  });
}

async function warn(
  { ids, jobs, publicUrl, mailDomain }: Keeping,
  db: Db,
  owner: PersonId,
  spent: Spending[],
  now: Instant,
): Promise<Statement[]> {
  const person = await findPersonById(db, owner);
  if (person === null) return [];
  const message = quotaMail({
    readerName: person.name,
    spent,
    made: now,
    link: `${publicUrl}/mail`,
    place: placeOf(person),
  });
  const id = await ids.one<DeliveryId>(db);
  return [
    orderLetter(mailDomain, { id, purpose: 'warning', to: person, message }, now),
    ...(await jobs.mailStatements([id])),
  ];
}
