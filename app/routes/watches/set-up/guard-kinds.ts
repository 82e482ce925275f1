import type { Guard } from '#core/read/guard';

/** The kinds of guards that can be said, each with what its one input is. */
export const GUARD_KINDS: { value: GuardDraft['kind']; label: string; input: string }[] = [
  { value: 'text here', label: 'this text is here', input: 'The text' },
  { value: 'says', label: 'the heading says', input: 'Exactly' },
  { value: 'contains', label: 'the heading contains', input: 'The text' },
  { value: 'label beside', label: 'this label is here', input: 'The label' },
  { value: 'least', label: 'at least so many records', input: 'How many' },
  { value: 'most', label: 'at most so many records', input: 'How many' },
  { value: 'address', label: 'the address after redirects', input: 'The address' },
];

/** A guard while it is written. */
export interface GuardDraft {
  kind: 'text here' | 'says' | 'contains' | 'label beside' | 'least' | 'most' | 'address';
  text: string;
}

/** The guard that is meant; null while it is not wholly said. */
export function guardOf({ kind, text }: GuardDraft): Guard | null {
  const said = text.trim();
  if (said === '') return null;
  switch (kind) {
    case 'text here':
      return { check: kind, text: said };
    case 'says':
    case 'contains':
      return { check: 'says', selector: 'h1', text: said, how: kind === 'says' ? 'equal' : 'contains' };
    case 'label beside':
      return { check: kind, label: said };
    case 'address':
      return { check: kind, address: said };
    default: {
      const count = Number(said);
      if (!Number.isInteger(count) || count < 0) return null;
      return { check: 'count', least: kind === 'least' ? count : null, most: kind === 'most' ? count : null };
    }
  }
}

/** A guard as it was written. */
export function guardDraftOf(guard: Guard): GuardDraft {
  switch (guard.check) {
    case 'text here':
      return { kind: guard.check, text: guard.text };
    case 'says':
      return { kind: guard.how === 'equal' ? 'says' : 'contains', text: guard.text };
    case 'label beside':
      return { kind: guard.check, text: guard.label };
    case 'address':
      return { kind: guard.check, text: guard.address };
    case 'count':
      return guard.least === null
        ? { kind: 'most', text: String(guard.most ?? '') }
        : { kind: 'least', text: String(guard.least) };
  }
}
