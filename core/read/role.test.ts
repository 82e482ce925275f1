import { describe, expect, it } from 'vitest';
import { storedDefinition, type Field } from './definition';
import { roleFor, type Role } from './role';

const field = (label: string, kind: Field['type']['kind'], path?: string) =>
  ({
    label,
    type: { kind } as Field['type'],
    locators: path === undefined ? [] : [{ way: 'structured' as const, type: 'Product', path }],
  }) satisfies Pick<Field, 'label' | 'type' | 'locators'>;

describe('what a field is', () => {
  it.each<[string, Field['type']['kind'], string | undefined, Role | null]>([
    ['what it costs', 'money', 'offers.price', 'price'],
    ['price', 'money', undefined, 'price'],
    ['Stückpreis', 'money', undefined, 'price'],
    ['Versandkosten', 'money', undefined, 'shipping cost'],
    ['stock', 'state', 'offers.availability', 'availability'],
    ['lot', 'text', undefined, 'identifier'],
    ['name', 'text', undefined, 'name'],
    ['value', 'number', undefined, 'value'],
    ['name', 'money', undefined, null],
    ['price history', 'text', undefined, null],
    ['enterprise', 'money', undefined, null],
    ['weight', 'number', undefined, null],
  ])('called %s, a %s at %s, is %s', (label, kind, path, role) => {
    expect(roleFor(field(label, kind, path))).toBe(role);
  });

  it('is found for fields that were kept before they had a role, and stays as it was said', () => {
    const fields = [
      { ...field('price', 'money'), key: 'a' },
      { ...field('price', 'money'), key: 'b', role: 'shipping cost' },
    ];
    const read = storedDefinition.read({ v: 1, subject: 'Smoker', fields });
    expect(read.fields.map(({ role }) => role)).toEqual(['price', 'shipping cost']);
  });
});
