import type { PersonId, QuestionId, WatchId } from '#core/id';
import type { Value } from '#core/value/value';
import {
  acceptQuestion,
  answerQuestion,
  listQuestions,
  listToAnswer,
  type OpenQuestion,
} from '#server/actions/questions';
import { listKnown } from '#server/db/reading/records';
import { inTransaction } from '#server/db/base/pool';
import { findBody } from '#server/db/source/snapshots';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { bodyOf } from '#server/reading/pool';
import { services } from '../../../services.server';
import { confirmWays } from './actions.server';
import { asked, type SeenThen } from './before-after.server';

/** What is asked of a watch, with what there is to see of it. */
export interface QuestionShown extends OpenQuestion {
  pictures: { before: SeenThen | null; now: SeenThen | null };
  /** Where the last good value itself stands now, if it does. */
  instead: Value | null;
}

const MOST_SHOWN = 5;

/** The open questions of a watch, the first few, and how many there are. */
export async function questionsShown(watch: WatchNow): Promise<{ questions: QuestionShown[]; count: number }> {
  const open = await listQuestions(services().pool, watch.id);
  if (open.length === 0) return { questions: [], count: 0 };
  const proposed = await proposals(watch);
  const questions = await Promise.all(
    open.slice(0, MOST_SHOWN).map(async (question) => ({
      ...question,
      pictures: await asked(watch.id, watch.definition, question),
      instead: proposed.get(question.field) ?? null,
    })),
  );
  return { questions, count: open.length };
}

/** Where each value in question would be read instead, were the proposed mending done. */
async function proposals(watch: WatchNow): Promise<Map<string, Value>> {
  const { pool, reading } = services();
  const latest = await findBody(pool, watch.id);
  if (latest === null) return new Map();
  const text = bodyOf(latest.body);
  const body = { key: text.key, receivedAt: latest.takenAt };
  const known = await listKnown(pool, watch.id);
  const done = await reading.run(
    'mend',
    { body, definition: watch.definition, address: latest.address, shown: null, known },
    [text],
  );
  const mending = done.ok ? done.value : null;
  if (mending === null || mending.definition === null) return new Map();
  return new Map(
    mending.fields.flatMap(({ key, proposal }) => (proposal.ok ? [[key, proposal.value.value] as const] : [])),
  );
}

const PASSED = 'This question was answered meanwhile, or has passed: look at what the watch says now.';

/** What somebody says to a question. */
export interface Answer {
  question: QuestionId;
  /** To the same question at other watches of the site, too. */
  elsewhere: boolean;
  /** Such a move of the value is not asked about again. */
  always: boolean;
}

/** Yes, from here on: the watches are looked at again, and what is read is news. The error is a sentence. */
export async function sayYes(
  watchId: WatchId,
  personId: PersonId,
  { question, elsewhere, always }: Answer,
): Promise<string | null> {
  const { pool, clock } = services();
  const open = await listToAnswer(pool, watchId, question, elsewhere);
  if (open.length === 0) return PASSED;
  let answered = 0;
  for (const each of open) {
    const done = await inTransaction(pool, (db) => acceptQuestion(db, each, { by: personId, always }, clock()));
    if (done) answered += 1;
  }
  return answered === 0 ? PASSED : null;
}

/** No: it stays set aside, and is not asked again while it stays so. */
export async function sayNo(
  watchId: WatchId,
  personId: PersonId,
  { question, elsewhere }: Answer,
): Promise<string | null> {
  const { pool, clock } = services();
  const open = await listToAnswer(pool, watchId, question, elsewhere);
  let answered = 0;
  for (const { id } of open) if (await answerQuestion(pool, id, 'no', personId, clock())) answered += 1;
  return answered === 0 ? PASSED : null;
}

/** No, it is what it was, and stands elsewhere now: it is read there, at this watch. */
export async function sayInstead(watchId: WatchId, personId: PersonId, answer: Answer): Promise<string | null> {
  const mended = await confirmWays(watchId, personId);
  return mended ?? (await sayNo(watchId, personId, { ...answer, elsewhere: false }));
}
