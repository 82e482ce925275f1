import { Liquid, type Template } from 'liquidjs';
import { fail, ok, type Result } from '../../result';
import { cut } from '../../value/sanitise';

// Words of her own for an edition, as Liquid templates (18): text that is filled, and never anything but text.

/** The parts of an edition that can be in her own words; an empty one is in ours. */
export const WORDED = ['subject', 'opening', 'heading'] as const;
export type Worded = (typeof WORDED)[number];
export type OwnWords = Record<Worded, string>;

export const OUR_WORDS: OwnWords = { subject: '', opening: '', heading: '' };

/** What can be put into subjects and openings, and into the headings of groups, with what it says. */
export const NAMES = {
  report: 'the report',
  part: 'the brand, tag … that it is of',
  news: 'its first news',
  sentence: 'our own sentence',
  lines: 'how many lines',
  falls: 'how many falls',
  rises: 'how many rises',
  alerts: 'how many alerts',
  below: 'how many are now below ours',
  since: 'since when',
  reader: 'who reads it',
} as const;
export const HEADING_NAMES = {
  group: 'what the group is',
  reference: 'our reference',
  place: 'our place in it',
  rows: 'how many rows',
} as const;

/** What fills a template: by the names above. */
export type Filled = Record<string, string | number>;

const LONGEST = 500;
const LONGEST_FILLED = 2_000;
const LIMITS = { parseLimit: 2_000, renderLimit: 50, memoryLimit: 100_000 };
/** What decides between words; nothing that loads, repeats or gathers. */
const TAGS = new Set(['if', 'unless', 'case', 'comment', 'raw', 'assign', '#']);
/** What makes other words or another number of what it is given: each takes its time by the length of that alone. */
const FILTERS = new Set([
  ...['append', 'prepend', 'upcase', 'downcase', 'capitalize', 'strip', 'squish', 'size', 'default'],
  ...['truncate', 'truncatewords', 'replace', 'replace_first', 'remove', 'remove_first'],
  ...['plus', 'minus', 'times', 'divided_by', 'modulo', 'round', 'ceil', 'floor', 'abs', 'at_least', 'at_most'],
]);
/** Every number from one to another, which could be all there are. */
const RANGE = /\{[{%][^}]*\([^()}]*\.\.[^()}]*\)/u;

function engineOf(): Liquid {
  const engine = new Liquid({
    ...LIMITS,
    strictFilters: true,
    strictVariables: true,
    ownPropertyOnly: true,
    templates: {},
    cache: false,
  });
  for (const tag of Object.keys(engine.tags)) if (!TAGS.has(tag)) Reflect.deleteProperty(engine.tags, tag);
  for (const [name, filter] of Object.entries(engine.filters)) {
    if (FILTERS.has(name) && typeof filter === 'function') engine.registerFilter(name, bounded(filter));
    else Reflect.deleteProperty(engine.filters, name);
  }
  return engine;
}

type Filter = Extract<Liquid['filters'][string], (...given: never[]) => unknown>;

/** A filter that takes and makes so much and no more: what is made of it again and again does not grow either. */
function bounded(filter: Filter): Filter {
  const short = (value: unknown) => (typeof value === 'string' ? cut(value, LONGEST_FILLED) : value);
  return function (this: ThisParameterType<Filter>, ...given): unknown {
    return short(filter.apply(this, given.map(short) as Parameters<Filter>));
  };
}

const engine = engineOf();

function parsed(template: string): Result<Template[], string> {
  if (template.length > LONGEST) return fail(`Words of her own have at most ${LONGEST} characters.`);
  if (RANGE.test(template)) return fail('Numbers from … to … cannot be gone through here');
  try {
    return ok(engine.parse(template));
  } catch (error) {
    return fail(reasonOf(error));
  }
}

/** What is wrong with a template, as Liquid says it, without where in which file. */
const reasonOf = (error: unknown): string =>
  (error instanceof Error ? error.message : String(error)).replace(/, file:.*|, line:.*/s, '').slice(0, 200);

/** A template filled; the error is what is wrong with it. */
export function fill(template: string, filled: Filled): Result<string, string> {
  const read = parsed(template);
  if (!read.ok) return read;
  try {
    return ok(String(engine.renderSync(read.value, filled)).trim().slice(0, LONGEST_FILLED));
  } catch (error) {
    return fail(reasonOf(error));
  }
}

const TRIED: Filled = Object.fromEntries(
  [...Object.keys(NAMES), ...Object.keys(HEADING_NAMES)].map((name) => [name, 1]),
);

/** What is wrong with some words, as a sentence; null where nothing is. They are tried with names and with none. */
export function wordsFault(words: OwnWords): string | null {
  for (const part of WORDED) {
    if (words[part].trim() === '') continue;
    const names = Object.keys(part === 'heading' ? HEADING_NAMES : NAMES);
    const own = Object.fromEntries(Object.entries(TRIED).filter(([name]) => names.includes(name)));
    const tried = fill(words[part], own);
    if (!tried.ok)
      return (
        `The words of the ${part} cannot be filled: ${tried.error}. What can be put in is ` +
        `${names.map((name) => `{{ ${name} }}`).join(', ')}.`
      );
  }
  return null;
}
