import { RE2JS } from 're2js';
import { fail, ok, type Result } from '../result';

const LONGEST = 300;
const kept = new Map<string, RE2JS>();
const MOST_KEPT = 500;

/**
 * Compiles a pattern of the analyst's own. RE2 syntax (https://github.com/google/re2/wiki/Syntax): the engine runs in
 * time linear in the text, whatever the pattern. The error says what is wrong with it.
 */
export function compilePattern(pattern: string): Result<RE2JS, string> {
  const known = kept.get(pattern);
  if (known !== undefined) return ok(known);
  if (pattern === '') return fail('The pattern is empty.');
  if (pattern.length > LONGEST) return fail(`A pattern may have at most ${LONGEST} characters.`);
  try {
    const compiled = RE2JS.compile(pattern, RE2JS.CASE_INSENSITIVE);
    if (kept.size >= MOST_KEPT) kept.clear();
    kept.set(pattern, compiled);
    return ok(compiled);
  } catch (error) {
    return fail(error instanceof Error ? error.message : 'This is not a pattern.');
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
