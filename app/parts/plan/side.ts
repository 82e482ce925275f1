import { isNumeric } from '#core/read/kinds';
import type { Field } from '#core/read/definition';

/** On which side of its column a field stands: numbers to the right, words to the left. */
export const sideOf = (field: Pick<Field, 'type'>): 'right' | 'left' => (isNumeric(field) ? 'right' : 'left');
