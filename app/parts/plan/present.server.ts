import { pageFacts, type Document } from '#core/read/html';
import { readField } from '#core/read/read';
import type { Field } from '#core/read/definition';
import type { PresentValues } from './plan';

/** What each field reads on a page now; a field that is not read has no value. */
export function presentOn(document: Document, fields: Field[]): PresentValues {
  const { locale } = pageFacts(document);
  const entries = fields.map((field) => {
    const read = readField(document, field, locale);
    return [field.key, read.ok ? read.value.value : undefined] as const;
  });
  return Object.fromEntries(entries);
}
