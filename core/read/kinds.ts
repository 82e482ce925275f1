import { AVAILABILITY, type Field, type FieldType } from './definition';

/** A kind of value as it is offered, with the type that choosing it begins with. */
interface OfferedKind {
  kind: FieldType['kind'];
  label: string;
  type: FieldType;
}

/** The kinds of value that can be read from a place. */
export const KINDS: OfferedKind[] = [
  { kind: 'money', label: 'money', type: { kind: 'money', currency: null } },
  { kind: 'number', label: 'number', type: { kind: 'number' } },
  { kind: 'text', label: 'text', type: { kind: 'text' } },
  { kind: 'state', label: 'availability', type: { kind: 'state', states: AVAILABILITY } },
  { kind: 'flag', label: 'yes or no', type: { kind: 'flag', yes: [], no: [] } },
  { kind: 'phrase', label: 'phrase present', type: { kind: 'phrase', phrase: '' } },
  { kind: 'grade', label: 'grade', type: { kind: 'grade', scale: ['A', 'B', 'C', 'D', 'E', 'F'] } },
  { kind: 'moment', label: 'date or time', type: { kind: 'moment' } },
  { kind: 'link', label: 'link', type: { kind: 'link' } },
  { kind: 'picture', label: 'picture address', type: { kind: 'picture' } },
  { kind: 'stated', label: 'as the source types it', type: { kind: 'stated' } },
];

/** The type that choosing a kind begins with; what it was already stays as it is. */
export function typeOfKind(kind: FieldType['kind'], present: FieldType | null = null): FieldType {
  if (present?.kind === kind) return present;
  return KINDS.find((each) => each.kind === kind)?.type ?? { kind: 'text' };
}

/** A kind as it is called. */
export function kindLabel(kind: FieldType['kind']): string {
  if (kind === 'count') return 'number of records';
  return kind === 'computed' ? 'computed' : (KINDS.find((each) => each.kind === kind)?.label ?? kind);
}

const NUMERIC: FieldType['kind'][] = ['money', 'number', 'stated', 'computed', 'count'];

/** True of a type whose values are numbers, which stand to the right of their column. */
export const isNumeric = ({ type }: Pick<Field, 'type'>): boolean => NUMERIC.includes(type.kind);
