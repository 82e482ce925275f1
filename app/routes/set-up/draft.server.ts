import { data } from 'react-router';
import { openBody, sniffFormat, type Body } from '#core/read/body';
import { pageFacts, parseHtml, type Document, type PageFacts } from '#core/read/html';
import type { FormulaScope } from '#core/read/formula';
import { readBody } from '#core/read/read';
import { findDraft, type Draft } from '#server/db/drafts';
import { latestOf } from '#server/db/latest';
import { listLooks, type Look } from '#server/db/looks';
import type { PlanDraft, PresentValues } from '../../parts/plan/plan';
import { services } from '../../services.server';

/** A draft with its page opened: what the watch would read, and what the browser shows. */
export interface OpenDraft {
  draft: Draft<PlanDraft>;
  /** What is read, in the way the draft has chosen; the error is a sentence. */
  body: Body;
  text: string;
  facts: PageFacts;
  host: string;
  site: string;
  looks: Look[];
  /** What its formulas ask of other watches. */
  latest: FormulaScope['latest'];
  /** The page as the browser last showed it. */
  shown: { look: Look; document: Document } | null;
}

/** Opens one of a person's own drafts, or answers that there is none. */
export async function openDraft(personId: number, id: string): Promise<OpenDraft> {
  const { pool } = services();
  const draft = await findDraft<PlanDraft>(pool, personId, Number(id) || 0);
  if (draft === null) throw data('There is no such draft.', { status: 404 });
  const looks = await listLooks(pool, draft.id);
  const look = looks.find((each) => each.purpose === 'page' && each.state === 'done');
  const shown = look?.body == null ? null : { look, document: parseHtml(look.body) };
  const text = draft.way === 'rendered' && look?.body != null ? look.body : (draft.body ?? '');
  const opened = openBody(text, sniffFormat(text), draft.fetchedAt ?? 0);
  const body: Body = opened.ok ? opened.value : { format: 'html', document: parseHtml(text) };
  const facts = body.format === 'html' ? pageFacts(body.document) : { title: null, siteName: null, locale: null };
  const host = new URL(draft.address).host;
  return {
    draft,
    body,
    text,
    facts,
    host,
    site: draft.way === 'posted' ? 'posted' : (facts.siteName ?? host.replace(/^www\./, '').replace(/\.localhost:\d+$/, '')),
    looks,
    latest: await latestOf(pool, [draft.content]),
    shown,
  };
}

/** What a plan reads on the draft's page now: each field of its first record, and how many records there are. */
export function presentIn({ draft, body, latest }: OpenDraft, plan: PlanDraft): { present: PresentValues; problem: string | null; records: number } {
  const read = readBody(body, plan, { address: draft.finalAddress ?? draft.address, latest });
  if (!read.ok) return { present: {}, problem: read.error.reason, records: 0 };
  const [first] = read.value.records;
  const entries = (first?.fields ?? []).map(({ field, outcome }) => [field, outcome.ok ? outcome.value.value : undefined] as const);
  return { present: Object.fromEntries(entries), problem: null, records: read.value.records.length };
}
