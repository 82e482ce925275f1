import type { ReportId } from '#core/id';
import { redirect } from 'react-router';
import { allReaders, type ReportDefinition } from '#core/tell/definition';
import { isOfRules } from '#core/when/cadence';
import { MINUTE } from '#core/when/interval';
import { listAudiences } from '#server/db/person/people';
import { inTransaction } from '#server/db/base/pool';
import { endFeed, findReport } from '#server/db/report/reports';
import { cutByHand } from '#server/pipeline/report/cut';
import { endReport, makeReport, saveReport } from '#server/pipeline/report/store';
import { readForm, textIn, writtenIn } from '../../../form.server';
import { readId, readNumber } from '../../../ids.server';
import { keepingServices, services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { sendTrial } from './trial.server';
import { readPlan } from './shape.server';

/** What came of pressing a button. */
export interface Answer {
  said: string | null;
  problem: string | null;
  /** What was saved, as it stands now. */
  saved?: { version: number; name: string; order: ReportDefinition };
}

export async function action({ request, params, context }: Route.ActionArgs): Promise<Answer | Response> {
  const person = asks(context, 'change', { kind: 'report' });
  const form = await readForm(request);
  const id = readId<ReportId>(params.report);
  if (form.get('intent') === 'gather') return gather(form, id, person);
  if (form.get('intent') === 'end feed') return endAddress(id);
  const ofRules = await reportOfRules(id);
  if (ofRules !== null) return toldAtOnce(form, ofRules);
  switch (form.get('intent')) {
    case 'cut':
      return cutNow(id);
    case 'trial':
      return sendTrial(form, id, person);
    case 'end': {
      asks(context, 'end', { kind: 'report' });
      const { pool, clock } = services();
      await inTransaction(pool, (db) => endReport(db, id, services().config.mailDomain, clock()));
      return redirect('/reports');
    }
    default:
      return save(form, id, person);
  }
}

type Report = NonNullable<Awaited<ReturnType<typeof findReport>>>;

async function reportOfRules(id: ReportId): Promise<Report | null> {
  const report = id === 0 ? null : await findReport(services().pool, id);
  return report !== null && isOfRules(report.order.cadence) ? report : null;
}

/** Of a report that tells of its rules at once only what it gathers can be sent by hand. */
async function toldAtOnce(form: FormData, { id, dueAt }: Report): Promise<Answer> {
  const cuts = form.get('intent') === 'cut';
  if (cuts && dueAt !== null) return cutNow(id);
  const idle = cuts ? 'It gathers nothing now. ' : '';
  return { said: null, problem: `${idle}What is told at once is said in the sentences of its watches, and not here.` };
}

const MOST_GATHERED = 24 * 60;

/** Lets a report that tells at once gather for a while first, or no more. */
async function gather(form: FormData, id: ReportId, person: ReturnType<typeof asks>): Promise<Answer> {
  const { pool, ids, clock, signals } = services();
  const minutes = readNumber(form.get('minutes'));
  const report = await findReport(pool, id);
  if (report === null || !isOfRules(report.order.cadence))
    return { said: null, problem: 'There is no such report that tells at once.' };
  if (minutes > MOST_GATHERED) return { said: null, problem: 'What is gathered waits for a day at most.' };
  const cadence = minutes === 0 ? { cut: 'at once' as const } : { cut: 'at once' as const, gather: minutes * MINUTE };
  const plan = { name: report.name, order: { ...report.order, cadence } };
  const saved = { id, over: readNumber(form.get('version')), plan, passOver: false };
  const version = await inTransaction(pool, (db) => saveReport(db, ids, saved, person.id, clock()));
  signals.say('outbox');
  return version === null
    ? { said: null, problem: 'Somebody else saved or deleted this report meanwhile. Load the page again.' }
    : { said: 'Saved.', problem: null };
}

/** Whoever has the address of its feed reads nothing by it any more. */
async function endAddress(id: ReportId): Promise<Answer> {
  await endFeed(services().pool, id);
  return { said: 'The feed has another address now.', problem: null };
}

async function cutNow(id: ReportId): Promise<Answer> {
  const { pool, clock, signals } = services();
  const keeping = await keepingServices();
  const done = await inTransaction(pool, (db) => cutByHand(keeping, db, id, clock()));
  signals.say('outbox');
  return done
    ? { said: 'Made: its edition is on its way, if there is anything to tell.', problem: null }
    : { said: null, problem: 'This report was deleted meanwhile.' };
}

async function save(form: FormData, id: ReportId, person: ReturnType<typeof asks>): Promise<Answer | Response> {
  const { pool, ids, clock } = services();
  const plan = readPlan(textIn(form, 'name'), writtenIn(form, 'order'));
  if (!plan.ok) return { said: null, problem: plan.error };
  const known = new Set((await listAudiences(pool)).map(({ key }) => key));
  if (!allReaders(plan.value.order).every((key) => known.has(key)))
    return { said: null, problem: 'Somebody who should hear is not known here any more: choose again who reads it.' };
  if (id === 0)
    return redirect(
      `/reports/${await inTransaction(pool, (db) => makeReport(db, ids, plan.value, person.id, clock()))}`,
    );
  const saved = {
    id,
    over: readNumber(form.get('version')),
    plan: plan.value,
    passOver: form.get('pass over') === 'yes',
  };
  const version = await inTransaction(pool, (db) => saveReport(db, ids, saved, person.id, clock()));
  if (version !== null) return { said: 'Saved.', problem: null, saved: { version, ...plan.value } };
  return {
    said: null,
    problem:
      'Somebody else saved or deleted this report meanwhile. Load the page again: what stands here is not kept yet.',
  };
}
