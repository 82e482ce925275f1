import type { RuleDefinition } from '#core/judge/rule';
import { listAudiences } from '#server/db/person/people';
import { services } from '../../services.server';

/** Said where a plan tells somebody who is not there. */
export const NOBODY_THERE = 'Somebody who should hear of it is not there any more. Say anew who should hear.';

/** Whether a plan tells somebody who is not there. */
export async function namesNobody(audiences: readonly string[]): Promise<boolean> {
  const known = new Set((await listAudiences(services().pool)).map(({ key }) => key));
  return audiences.some((key) => !known.has(key));
}

/** Whether rules tell somebody who is not there, at once or where nobody takes it on. */
export const tellNobody = (
  rules: readonly { audiences: readonly string[]; definition: RuleDefinition }[],
): Promise<boolean> =>
  namesNobody(
    rules.flatMap(({ audiences, definition: { steps = [] } }) => [
      ...audiences,
      ...steps.flatMap((step) => step.audiences),
    ]),
  );
