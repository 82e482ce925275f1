import type { Guard } from '#core/read/guard';
import type { Target } from '#core/read/inspect/wall';
import type { Sealed } from '../sealed';

/**
 * One thing to do in the browser before a page is read. Each may be followed by a check; where it fails, the run stops.
 */
export type Step = (
  | { act: 'go to'; address: string }
  | { act: 'click'; at: Target }
  | { act: 'fill in'; at: Target; text: string | Sealed }
  | { act: 'choose'; at: Target; option: string }
  | { act: 'wait for'; at: Target }
  | { act: 'scroll'; screens: number }
) & { guard?: Guard; optional?: boolean };

/** A step in words, without anything secret. */
export function describeStep(step: Step): string {
  switch (step.act) {
    case 'go to':
      return `go to ${step.address}`;
    case 'click':
      return `click ${describeTarget(step.at)}`;
    case 'fill in':
      return (
        'fill in ' +
        `${describeTarget(step.at)}${typeof step.text === 'string' ? ` with “${step.text}”` : ' with the secret'}`
      );
    case 'choose':
      return `choose “${step.option}” in ${describeTarget(step.at)}`;
    case 'wait for':
      return `wait for ${describeTarget(step.at)}`;
    case 'scroll':
      return `scroll ${step.screens} ${step.screens === 1 ? 'screen' : 'screens'}`;
  }
}

function describeTarget(target: Target): string {
  return 'words' in target ? `“${target.words}”` : target.selector;
}
