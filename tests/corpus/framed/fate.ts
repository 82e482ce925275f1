import type { Body } from '#core/read/body';
import { candidateAt, candidates, type Candidate } from '#core/read/candidates';
import { pageDefinition, type Field, type WatchDefinition } from '#core/read/definition';
import { describeChanges } from '#core/read/frame/changes';
import { doubtsOf } from '#core/read/frame/doubts';
import { pageFacts, selectElements, type Document, type Element } from '#core/read/html';
import { placesOf } from '#core/read/locator';
import { proposeMending } from '#core/read/mend/mend';
import { describeProblem } from '#core/read/problem';
import { readBody } from '#core/read/read';
import { isMeasure, unitOf, type Value } from '#core/value/value';
import { documentOf } from '../../support/document';
import { after, filledWith, type Done, type Site } from './page';

/** What became of a page. Right: read, or rightly not read; in question: put so though it stands there plainly. */
export type Fate = 'right' | 'in question' | 'proposed' | 'refused' | 'proposed wrong' | 'read wrong';

/** How a watch was set up: by pointing at the place, or from the list of what was found. */
export type Path = 'picked' | 'listed';

interface SetUp {
  definition: WatchDefinition;
  last: Value;
}

const words = (value: Value) =>
  isMeasure(value) ? `${value.amount} ${unitOf(value) ?? ''}`.trim() : JSON.stringify(value);
const alike = (value: Value, truth: string | null) =>
  truth !== null &&
  isMeasure(value) &&
  Number(value.amount) === Number(truth.split(' ')[0]) &&
  (unitOf(value) ?? '') === truth.split(' ').slice(1).join(' ');

/** Sets a watch up on a site as it was; null where the list has no such value. */
export function setUp(site: Site, path: Path): SetUp | null {
  const document = documentOf(filledWith(site.html, site.was));
  const found = selectElements(document, site.pick);
  const element = found.ok ? found.value[0] : undefined;
  if (element === undefined) throw new Error(`${site.kind}: nothing is at ${site.pick}`);
  const candidate = path === 'picked' ? pickedAt(site, document, element) : listedAt(document, element);
  if (candidate === null) return null;
  const { locators, type, value, frame } = candidate;
  const field: Field = {
    key: 'value',
    label: 'value',
    type,
    mode: 'stepwise',
    polarity: 'neither',
    locale: null,
    locators,
    frames: [frame],
  };
  return { definition: pageDefinition(pageFacts(document).title ?? '', [field], []), last: value };
}

function pickedAt(site: Site, document: Document, element: Element): Candidate {
  const picked = candidateAt(document, element, { locale: pageFacts(document).locale, address: null }, null);
  if (!picked.ok) throw new Error(`${site.kind}: ${picked.error}`);
  return picked.value;
}

function listedAt(document: Document, element: Element): Candidate | null {
  const finds = ({ locators }: Candidate) =>
    locators.some((locator) => {
      const places = placesOf(document, locator);
      return places.ok && places.value.length === 1 && places.value[0]?.element === element;
    });
  return candidates(document).find(finds) ?? null;
}

/** Reads a page after something was done to it, and where nothing is read, does the mending that is proposed. */
export function fateOf(site: Site, done: Done, path: Path): Fate | null {
  const made = setUp(site, path);
  if (made === null) return null;
  const body: Body = { format: 'html', document: documentOf(after(site, done)) };
  const read = reading(body, made);
  if (read.value !== null) return alike(read.value, done.truth) ? 'right' : 'read wrong';
  const known = [{ identity: 'page', fields: { value: made.last } }];
  const mended = proposeMending(body, made.definition, known, null)?.definition ?? null;
  const proposed = mended === null ? null : reading(body, { ...made, definition: mended }).value;
  if (proposed !== null && !alike(proposed, done.truth)) return 'proposed wrong';
  if (done.truth === null) return 'right';
  return proposed !== null ? 'proposed' : read.questioned ? 'in question' : 'refused';
}

export function reading(
  body: Body,
  { definition, last }: SetUp,
): { value: Value | null; questioned: boolean; said: string } {
  const read = readBody(body, definition, { address: null, latest: () => undefined });
  const outcome = read.ok ? read.value.records[0]?.fields[0]?.outcome : undefined;
  if (outcome === undefined) return { value: null, questioned: false, said: JSON.stringify(read) };
  if (!outcome.ok)
    return { value: null, questioned: outcome.error.reason === 'in question', said: describeProblem(outcome.error) };
  const doubts = doubtsOf(last, outcome.value.value, {});
  if (doubts.length > 0) return { value: null, questioned: true, said: describeChanges(doubts) };
  return { value: outcome.value.value, questioned: false, said: words(outcome.value.value) };
}
