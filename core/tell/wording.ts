import type { Wording } from '../judge/rule';
import { fail, ok, type Result } from '../result';
import { formatValue } from '../value/format';
import { moved, quoted, type News } from './news';

/** What her own words can name: each is put in as it is read, and nothing of it is anything but text. */
export const PLACEHOLDERS = ['record', 'site', 'field', 'value', 'before', 'move', 'rule'] as const;
type Placeholder = (typeof PLACEHOLDERS)[number];

const NAMED = /\{([^{}]*)\}/g;

/** Whether words can be told: every name in braces is known, and no brace stands alone. The error is a sentence. */
export function checkWords(words: string): Result<null, string> {
  const strange = [...words.matchAll(NAMED)].map(([, name = '']) => name.trim()).find((name) => !isPlaceholder(name));
  if (strange !== undefined)
    return fail(
      `“{${strange.slice(0, 40)}}” is no name that can be put in. They are: ` +
        `${PLACEHOLDERS.map((name) => `{${name}}`).join(', ')}.`,
    );
  return /[{}]/.test(words.replace(NAMED, '')) ? fail('A brace stands alone: a name is put in as {value}.') : ok(null);
}

const isPlaceholder = (name: string): name is Placeholder => (PLACEHOLDERS as readonly string[]).includes(name);

/** Her own words of a piece of news; null where she has none of this sort. */
export function ownWords(news: News, part: keyof Wording, locale: string): string | null {
  const words = news.told === undefined || news.told.what === 'alert' ? news.own?.[part]?.trim() : undefined;
  if (words === undefined || words === '') return null;
  return words.replace(NAMED, (whole, name: string) =>
    isPlaceholder(name.trim()) ? SAID[name.trim() as Placeholder](news, locale) : whole,
  );
}

const SAID: Record<Placeholder, (news: News, locale: string) => string> = {
  record: ({ subject }) => subject,
  site: ({ site }) => site,
  field: ({ field }) => field.label,
  value: ({ value }, locale) => quoted(value, locale),
  before: ({ previous }, locale) => (previous === null ? 'nothing' : formatValue(previous, locale)),
  move: (news, locale) => moved(news, locale) || 'not moved',
  rule: ({ rule }) => rule ?? 'its rule',
};
