import type { Fillable, Pressable, Target } from '#core/read/inspect/wall';
import type { Step } from '#server/fetch/rendered/steps';
import type { SourceFacts } from '../source/facts';
import { useSource } from '../use-source';

/**
 * Has things filled in and pressed in the browser before the page is read, from here on; the page is opened anew with
 * that.
 */
export function usePassing(facts: SourceFacts) {
  const { busy, set } = useSource();
  const before = facts.request.steps ?? [];
  const send = (kept: Step[], steps: Step[], secrets: Record<string, string>) => {
    if (busy) return;
    const request = JSON.stringify({ ...facts.request, steps: [...kept, ...steps] });
    set({ way: 'rendered', request, secrets: JSON.stringify(secrets) });
  };
  return {
    busy,
    /** Presses what leads on; `mayBeGone` where the page is as good without it, should it not come up one day. */
    press: ({ at }: Pressable, mayBeGone: boolean) =>
      send(upTo(before, at), [{ act: 'click', at, ...(mayBeGone ? { optional: true } : {}) }], {}),
    /** Fills in what a sign-in asks for, and presses. What is secret travels apart, to be sealed. */
    signIn: (fields: (Fillable & { text: string })[], { at }: Pressable) => {
      const kept = upTo(before, fields[0]?.at ?? at);
      const secrets = fields.flatMap(({ secret, text }, place) =>
        secret ? [[String(kept.length + place), text] as const] : [],
      );
      const filled = fields.map((field): Step => ({
        act: 'fill in',
        at: field.at,
        text: field.secret ? { sealed: '-' } : field.text,
      }));
      send(kept, [...filled, { act: 'click', at }], Object.fromEntries(secrets));
    },
    /** Lets the page be opened without any steps again. */
    takeBack: () => send([], [], {}),
  };
}

/** The steps before the first one that acts at a place: what did not lead through there is not done twice. */
function upTo(steps: Step[], place: Target): Step[] {
  const at = steps.findIndex((step) => 'at' in step && JSON.stringify(step.at) === JSON.stringify(place));
  return at < 0 ? steps : steps.slice(0, at);
}
