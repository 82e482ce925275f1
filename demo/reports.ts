import type { PersonId } from '#core/id';
import { blankDefinition } from '#core/tell/definition';
import type { Decimal } from '#core/value/decimal';
import type { Instant } from '#core/when/interval';
import type { Ids } from '#server/db/base/ids';
import { inTransaction, type Pool } from '#server/db/base/pool';
import { makeReport, type ReportPlan } from '#server/pipeline/report/store';

const ZONE = 'Europe/London';

/** What Heatherlow’s people hear by the clock, beside what is told at once. */
function plans(tell: (who: string) => string, owner: PersonId): ReportPlan[] {
  const pricing = blankDefinition(ZONE, [tell('pricing')]);
  const apiary = blankDefinition(ZONE, [tell('marta')]);
  const shop = blankDefinition(ZONE, [tell('tom')]);
  return [
    {
      name: 'Pricing, daily',
      order: { ...pricing, takes: { ...pricing.takes, only: { ...pricing.takes.only, kinds: ['rival'] } } },
    },
    {
      name: 'Apiary, weekly',
      order: {
        ...apiary,
        cadence: { cut: 'weekly', days: [1], at: 7 * 60, zone: ZONE },
        takes: { ...apiary.takes, only: { ...apiary.takes.only, tags: ['apiary'] } },
        by: 'watch',
        whenNothing: 'say',
      },
    },
    {
      name: 'Jars, large falls',
      order: {
        ...shop,
        cadence: { cut: 'every', hours: 6, from: 6 * 60, zone: ZONE },
        takes: { ...shop.takes, sorts: ['prices'], only: { ...shop.takes.only, tags: ['jars'] } },
        size: { ...shop.size, falls: { is: 'percent', least: '4' as Decimal }, rises: { is: 'off' } },
        by: 'site',
      },
    },
    {
      name: 'Brands, weekly',
      order: {
        ...pricing,
        cadence: { cut: 'weekly', days: [1], at: 8 * 60, zone: ZONE },
        takes: { ...pricing.takes, only: { ...pricing.takes.only, kinds: ['rival'] } },
        readers: [`person:${owner}`],
        split: {
          by: 'brand',
          parts: [
            { value: 'Ling & Bell', readers: [tell('pricing')] },
            { value: 'Vennor', readers: [tell('marta')] },
          ],
        },
        broken: [`person:${owner}`],
      },
    },
  ];
}

/** Makes the reports. */
export async function startReports(
  pool: Pool,
  ids: Ids,
  owner: PersonId,
  tell: (who: string) => string,
  now: Instant,
): Promise<void> {
  for (const plan of plans(tell, owner)) await inTransaction(pool, (db) => makeReport(db, ids, plan, owner, now));
}
