import { visibleText, pageFacts, type Document } from '#core/read/html';
import { locate } from '#core/read/locator';
import { readField } from '#core/read/read';
import type { Field } from '#core/read/definition';
import type { PresentValues } from './plan';

/** What each field reads on a page now; a field that is not read has no value. */
export function presentOn(document: Document, fields: Field[]): PresentValues {
  const typing = { locale: pageFacts(document).locale, address: null };
  const entries = fields.map((field) => {
    const read = readField({ find: (locator) => locate(document, locator), text: () => visibleText(document) }, field, typing);
    return [field.key, read.ok ? read.value.value : undefined] as const;
  });
  return Object.fromEntries(entries);
}
