import type { Locator } from './locator';

const ORDINALS = ['first', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth'];
const ordinal = (nth: number) => ORDINALS[nth - 1] ?? `${nth}th`;

/** A locator in plain words: where it looks. */
export function describeLocator(locator: Locator): string {
  switch (locator.way) {
    case 'css':
      return `${describeCss(locator.selector)}${locator.without === undefined ? '' : `, without ${locator.without.length === 1 ? 'a part' : `${locator.without.length} parts`}`}`;
    case 'xpath':
      return `XPath ${locator.path}`;
    case 'label':
      return `Beside the label “${locator.label}”`;
    case 'block':
      return `The ${ordinal(locator.nth)} ${locator.shape === 'money' ? 'price' : 'number'} under “${locator.heading}”`;
    case 'structured':
      return `Structured data: ${describeStructured(locator)}`;
    case 'pattern':
      return `The pattern ${locator.pattern}`;
    case 'path':
      return `JSONPath ${locator.path}`;
    case 'cell':
      return (
        'The cell ' +
        `${[locator.row.length === 0 ? '' : `in the row “${locator.row.join(', ')}”`, locator.column.length === 0 ? '' : `under “${locator.column.join(', ')}”`].filter(Boolean).join(' ')}`
      );
    case 'column':
      return `The column “${locator.column}”`;
    case 'part':
      return `The ${locator.part.replace(/^label:/, 'label ')}`;
  }
}

const WHOLES: Record<string, string> = {
  body: 'The whole page',
  main: 'The main part of the page',
  article: 'The article',
};

function describeCss(selector: string): string {
  const whole = WHOLES[selector];
  if (whole !== undefined) return whole;
  const id = /^#([\w-]+)$/.exec(selector)?.[1];
  if (id !== undefined) return `Its id ${selector}`;
  const named = /^\.([\w-]+)$/.exec(selector)?.[1];
  if (named !== undefined) return `Its class ${selector}`;
  const attribute = /^[\w-]*\[([\w-]+)="([^"]*)"\]$/.exec(selector);
  if (attribute !== null) return `Its attribute ${attribute[1]} “${attribute[2]}”`;
  return /[#.[]/.test(selector) ? `CSS ${selector}` : describePlace(selector);
}

const NAMES: Record<string, string> = {
  td: 'cell',
  th: 'head cell',
  tr: 'row',
  li: 'item',
  p: 'paragraph',
  div: 'block',
  span: 'piece',
  a: 'link',
  dd: 'entry',
  table: 'table',
  b: 'bold text',
  strong: 'bold text',
  i: 'slanted text',
  em: 'slanted text',
};

/** The last steps of a way that says nothing but where: `its place: third row, second cell`. */
function describePlace(selector: string): string {
  const steps = selector
    .replace(/^:scope > /, '')
    .split(' > ')
    .slice(-2)
    .map((step) => {
      const [, name = step, nth] = /^([\w:-]+?)(?::nth-of-type\((\d+)\))?$/.exec(step) ?? [];
      return `${nth === undefined ? '' : `${ordinal(Number(nth))} `}${NAMES[name] ?? name}`;
    });
  return `Its place: ${steps.join(', ')}`;
}

/** `Product › offers › price` for a place in structured data. */
export function describeStructured(place: { type: string; path: string }): string {
  return [place.type, ...place.path.split('.')].join(' › ');
}
