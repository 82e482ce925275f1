import type { Body } from '#core/read/body';
import { candidateAt } from '#core/read/candidates';
import { pageDefinition, type Field, type WatchDefinition } from '#core/read/definition';
import { evidenceOf, type Evidence } from '#core/read/evidence';
import { pageFacts, selectElements } from '#core/read/html';
import type { Locator } from '#core/read/locator';
import { proposeMending } from '#core/read/mend/mend';
import { readBody } from '#core/read/read';
import { isMeasure, unitOf, type Value } from '#core/value/value';
import { filled, type Base } from './bases';
import type { RebuiltPage } from './cases';
import { documentOf } from '../../support/document';

/** What became of a rebuilt page. Right: read, or rightly not read. */
export type Fate = 'right' | 'proposed' | 'refused' | 'proposed wrong' | 'read wrong';

const words = (value: Value) =>
  isMeasure(value) ? `${Number(value.amount).toFixed(2)} ${unitOf(value) ?? ''}`.trim() : JSON.stringify(value);

/** Sets a watch up on a base as a pick would: its ways, its guards, its value. */
export function setUp(base: Base): { definition: WatchDefinition; last: Value } {
  const document = documentOf(filled(base.html, base.data));
  const found = selectElements(document, base.pick);
  const element = found.ok ? found.value[0] : undefined;
  if (element === undefined) throw new Error(`${base.name}: nothing is at ${base.pick}`);
  const facts = pageFacts(document);
  const candidate = candidateAt(document, element, { locale: facts.locale, address: null }, null);
  if (!candidate.ok) throw new Error(`${base.name}: ${candidate.error}`);
  const { locators, type, value, frame } = candidate.value;
  const field: Field = {
    key: 'value',
    label: 'price',
    type,
    mode: 'stepwise',
    polarity: 'neither',
    locale: null,
    locators,
    frames: [frame],
  };
  return { definition: pageDefinition(facts.title ?? '', [field]), last: value };
}

/** Reads a rebuilt page with the watch of its base, and where nothing is read, with the mending that is proposed. */
export function fateOf({ base, html, truth }: RebuiltPage): Fate {
  const { definition, last } = setUp(base);
  const body = { format: 'html', document: documentOf(html) } as const;
  const { value: read, asked } = valueIn(body, definition);
  if (read !== null) return words(read) === truth ? 'right' : 'read wrong';
  if (truth === null) return 'right';
  // Asked about with what stands around it: one yes reads it.
  if (asked !== null && words(asked) === truth) return 'proposed';
  const mended =
    proposeMending(body, definition, [{ identity: 'page', fields: { value: last } }], null)?.definition ?? null;
  const proposed = mended === null ? null : valueIn(body, mended).value;
  if (proposed === null) return 'refused';
  return words(proposed) === truth ? 'proposed' : 'proposed wrong';
}

function valueIn(body: Body, definition: WatchDefinition): { value: Value | null; asked: Value | null } {
  const read = readBody(body, definition, { address: null, latest: () => undefined });
  const outcome = read.ok ? read.value.records[0]?.fields[0]?.outcome : undefined;
  if (outcome?.ok) return { value: outcome.value.value, asked: null };
  return { value: null, asked: outcome?.error.reason === 'in question' ? outcome.error.value : null };
}

/** What each way of a base finds by itself on a page built anew. */
export function fatesOfWays({
  base,
  html,
  truth,
}: RebuiltPage): { evidence: Evidence; fate: 'found' | 'lost' | 'wrong' }[] {
  const { definition } = setUp(base);
  const body = { format: 'html', document: documentOf(html) } as const;
  const fields = definition.fields.flatMap((field) =>
    field.locators.map((locator) => ({ ...field, locators: [locator] })),
  );
  return fields.map((field) => {
    const { value } = valueIn(body, { ...definition, fields: [{ ...field, frames: [] }], guards: [] });
    const [locator] = field.locators;
    const evidence = evidenceOf(locator as Locator);
    return { evidence, fate: value === null ? 'lost' : words(value) === truth ? 'found' : 'wrong' };
  });
}
