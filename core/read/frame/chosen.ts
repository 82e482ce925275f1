import { isTag, type AnyNode } from 'domhandler';
import { foldText } from '../../value/parse';
import { isHidden, shortText, type Document, type Element } from '../html';
import { keptFor } from '../order';

const LONGEST = 60;
const MOST = 40;
const MARKED = /(^|[\s_-])(is-)?(selected|active|chosen|checked|current)(?=$|\s)|(^|\s)(is-)?(on|sel|picked)(?=$|\s)/;
const STATES = /^(?:on|active|checked|selected|true)$/;
const PASSED = new Set(['nav', 'footer']);

/** What is chosen on a page: the options, buttons, tabs and boxes that show themselves so. In order, each once. */
export const chosenIn = keptFor((scope: Document | Element): string[] => {
  const found = new Set<string>();
  const labels = new Map<string, string>();
  const visit = (node: AnyNode): void => {
    if (!isTag(node) || PASSED.has(node.name) || isHidden(node) || found.size >= MOST) return;
    if (node.name === 'label' && node.attribs.for !== undefined) labels.set(node.attribs.for, shortText(node) ?? '');
    const text = chosenAt(node, labels);
    if (text !== null && text !== '' && text.length <= LONGEST) found.add(text);
    if (node.name !== 'select') node.children.forEach(visit);
  };
  scope.children.forEach(visit);
  return [...found];
});

/** What an element says is chosen; null where it says nothing of it. */
function chosenAt(element: Element, labels: ReadonlyMap<string, string>): string | null {
  const { name, attribs } = element;
  if (name === 'select') return optionOf(element);
  if (name === 'input') return attribs.checked === undefined ? null : boxed(element, labels);
  const stated = ['aria-selected', 'aria-checked', 'aria-pressed']
    .map((each) => attribs[each])
    .find((each) => each !== undefined);
  const marked = stated === undefined ? isMarked(element) : stated === 'true';
  return marked ? nameOf(element) : null;
}

/** By its class, or by what programs state of it. */
function isMarked({ attribs }: Element): boolean {
  const current = attribs['aria-current'] ?? 'false';
  return (
    MARKED.test(attribs.class ?? '') ||
    current !== 'false' ||
    ['data-state', 'data-selected', 'data-active'].some((name) => STATES.test(attribs[name] ?? ''))
  );
}

/** Without the sums that stand in it. */
const nameOf = (element: Element) =>
  foldText(
    (shortText(element) ?? '').replace(/[-+]?\p{Sc}?\s?\d[\d.,]*\s?\p{Sc}/gu, '').replace(/\p{Sc}\s?\d[\d.,]*/gu, ''),
  );

function optionOf(select: Element): string | null {
  const options = optionsBelow(select).filter(({ attribs }) => attribs.disabled === undefined);
  const chosen = options.find(({ attribs }) => attribs.selected !== undefined) ?? options[0];
  return chosen === undefined ? null : nameOf(chosen);
}

const optionsBelow = (element: Element): Element[] =>
  element.children.filter(isTag).flatMap((child) => (child.name === 'option' ? [child] : optionsBelow(child)));

/** What is written beside a checked box. */
function boxed(input: Element, labels: ReadonlyMap<string, string>): string | null {
  const { id, 'aria-label': said, value } = input.attribs;
  const known = id === undefined ? undefined : labels.get(id);
  if (known !== undefined) return known;
  for (
    let at = input.parent as AnyNode | null, climbs = 0;
    at !== null && isTag(at) && climbs < 2;
    at = at.parent, climbs += 1
  ) {
    if (at.name === 'label') return nameOf(at);
  }
  const next = input.next !== null && isTag(input.next) && input.next.name === 'label' ? shortText(input.next) : null;
  return next ?? said ?? value ?? null;
}
