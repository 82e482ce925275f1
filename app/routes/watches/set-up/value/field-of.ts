import { inRole, type Field, type FieldType } from '#core/read/definition';
import { freeKey } from '#core/read/keys';

/** A field with what is usual for its type, under a key that is free. */
export function fieldOf(label: string, type: FieldType, locators: Field['locators'], taken: Field[]): Field {
  const keys = taken.map((field) => field.key);
  return inRole({
    key: freeKey(label, keys),
    label,
    type,
    mode: 'stepwise',
    polarity: type.kind === 'money' ? 'up is good' : 'neither',
    locale: null,
    locators,
  });
}

/** A field that is worked out from the others. */
export function computedField(fields: Field[]): Field {
  return { ...fieldOf('computed', { kind: 'computed', formula: '' }, [], fields), label: 'computed' };
}
