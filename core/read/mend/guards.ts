import type { WatchDefinition } from '../definition';
import { passes, type Guard, type GuardedPage } from '../guard';
import { selectElements, visibleText, type Document } from '../html';
import { labelFor } from '../label';
import { headingBefore, placeOf } from '../pick';
import type { FieldMending, GuardMending } from './mending';

/** The guards that do not pass on a page, each with what says the same of it as it is now. */
export function mendGuards(
  document: Document,
  { guards }: WatchDefinition,
  page: GuardedPage,
  fields: FieldMending[],
): GuardMending[] {
  return guards.filter((guard) => !passes(guard, page)).map((guard) => mendGuard(document, guard, fields));
}

/** A heading that reads so elsewhere, or the label beside the value's new place. */
function mendGuard(document: Document, guard: Guard, fields: FieldMending[]): GuardMending {
  if (guard.check === 'says') {
    const wanted = guard.text.toLowerCase();
    const headings = selectElements(document, 'h1, h2, h3, h4');
    const heading = headings.ok ? headings.value.find((each) => visibleText(each).toLowerCase() === wanted) : undefined;
    if (heading !== undefined)
      return { guard, proposal: { ...guard, selector: placeOf(document, heading), how: 'equal' } };
    const here: Guard = { check: 'text here', text: guard.text };
    return { guard, proposal: visibleText(document).toLowerCase().includes(wanted) ? here : null };
  }
  if (guard.check !== 'label beside') return { guard, proposal: null };
  for (const { proposal } of fields) {
    const places = proposal.ok ? selectElements(document, proposal.value.selector) : null;
    const element = places?.ok ? places.value[0] : undefined;
    const label = element === undefined ? null : labelFor(document, element);
    if (label !== null) return { guard, proposal: { check: 'label beside', label } };
    const heading = element === undefined ? null : headingBefore(document, element);
    if (heading !== null) return { guard, proposal: { check: 'text here', text: visibleText(heading) } };
  }
  return { guard, proposal: null };
}
