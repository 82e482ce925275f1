import { RE2JS } from 're2js';
import { fail, ok, type Result } from '../result';
import { digestOf } from '../value/digest';
import { patternSize } from './pattern-size';

const LONGEST = 300;
/** In instructions. Time is linear in them and in the text, so this is what the slowest pattern costs. */
const MOST_SIZE = 1_000;
/** What is not compiled to see: alternatives of single signs come to less than they seem to. */
const MOST_EXPANDED = 4_000;
/** Compiled patterns are kept up to so many instructions in all; the ones used longest ago make way. */
const MOST_KEPT = 50_000;

const kept = new Map<string, RE2JS>();
let keptSize = 0;

/**
 * Compiles a pattern of the analyst's own. RE2 syntax (https://github.com/google/re2/wiki/Syntax): the engine runs in
 * time linear in the text, whatever the pattern, and in its size, which is bounded before it is compiled. The error
 * says what is wrong with it.
 */
export function compilePattern(pattern: string): Result<RE2JS, string> {
  const known = kept.get(pattern);
  if (known !== undefined) {
    kept.delete(pattern);
    kept.set(pattern, known);
    return ok(known);
  }
  if (pattern === '') return fail('The pattern is empty.');
  if (pattern.length > LONGEST) return fail(`A pattern may have at most ${LONGEST} characters.`);
  if (patternSize(pattern) > MOST_EXPANDED) return fail(TOO_LARGE);
  try {
    const compiled = RE2JS.compile(pattern, RE2JS.CASE_INSENSITIVE);
    if (compiled.programSize() > MOST_SIZE) return fail(TOO_LARGE);
    keep(pattern, compiled);
    return ok(compiled);
  } catch (error) {
    return fail(error instanceof Error ? error.message : 'This is not a pattern.');
  }
}

const TOO_LARGE = 'The pattern repeats too much: ask for fewer repetitions.';

function keep(pattern: string, compiled: RE2JS): void {
  kept.set(pattern, compiled);
  keptSize += compiled.programSize();
  for (const [oldest, each] of kept) {
    if (keptSize <= MOST_KEPT) return;
    kept.delete(oldest);
    keptSize -= each.programSize();
  }
}

/** Every capture of a pattern in a text, in order: its first group, or the whole match where it has none. */
export function capturesOf(pattern: RE2JS, text: string, most: number): string[] {
  const matcher = pattern.matcher(text);
  const group = matcher.groupCount() > 0 ? 1 : 0;
  const found: string[] = [];
  while (found.length < most && matcher.find()) found.push(matcher.group(group) ?? '');
  return found;
}

/** A text without whatever the patterns match; one that does not compile masks nothing. */
export function maskText(text: string, masks: string[]): string {
  return masks.reduce((left, mask) => {
    const compiled = compilePattern(mask);
    return compiled.ok ? compiled.value.matcher(left).replaceAll('…') : left;
  }, text);
}

/** A pattern that is to be looked for in a text. */
export interface Search {
  pattern: string;
  text: string;
}

/** Instructions times characters that may be gone through where others wait: some 50 ms at the slowest. */
const MOST_STEPS = 300_000;
const MOST_REMEMBERED = 1_000;
const MOST_WANTED = 20;

const remembered = new Map<string, boolean | null>();
let wanted = new Map<string, Search>();

const keyOf = ({ pattern, text }: Search): string => `${digestOf(text)} ${text.length} ${pattern}`;

/** Whether a pattern matches somewhere in a text, however long that takes: for a thread. */
export function searchFor({ pattern, text }: Search): boolean {
  const compiled = compilePattern(pattern);
  return compiled.ok && compiled.value.test(text);
}

/**
 * Whether a pattern matches somewhere in a text. Null where it is no pattern, or where that would take too long here
 * and nobody has worked it out; then it is among what `takeWanted` brings, and known once `rememberSearch` was told.
 */
export function isMatch(search: Search): boolean | null {
  const compiled = compilePattern(search.pattern);
  if (!compiled.ok) return null;
  if (compiled.value.programSize() * search.text.length <= MOST_STEPS) return compiled.value.test(search.text);
  const key = keyOf(search);
  const known = remembered.get(key);
  if (known === undefined && wanted.size < MOST_WANTED) wanted.set(key, search);
  return known ?? null;
}

/** What was to be looked for since this was asked last, and takes too long to be done where others wait. */
export function takeWanted(): Search[] {
  const searches = [...wanted.values()];
  wanted = new Map();
  return searches;
}

/** Keeps what a thread found; null where that took too long there, too. */
export function rememberSearch(search: Search, found: boolean | null): void {
  remembered.set(keyOf(search), found);
  if (remembered.size > MOST_REMEMBERED) for (const oldest of remembered.keys()) return void remembered.delete(oldest);
}
