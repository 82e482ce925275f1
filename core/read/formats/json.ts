import { JSONPathEnvironment, type JSONPathQuery, type JSONValue } from 'json-p3';
import { isLosslessNumber, parse, type LosslessNumber } from 'lossless-json';
import { fail, ok, type Result } from '../../result';
import { cut, sanitiseEscapes } from '../../value/sanitise';
import type { Found, LocateProblem } from '../found';

/** JSON whose numbers keep their digits. */
export type Json = string | boolean | null | LosslessNumber | Json[] | { [key: string]: Json };

/** A parsed JSON body: once with exact digits to read from, once plain to be queried. */
export interface JsonBody {
  format: 'json';
  exact: Json;
  plain: JSONValue;
}

/** One value in a body, in both its forms. */
export interface JsonNode {
  exact: Json;
  plain: JSONValue;
}

const DEEPEST = 100;
const LONGEST_PATH = 300;
const MOST_NODES = 50_000;

/** Parses JSON (RFC 8259) without losing a digit; the error is the reason, as a sentence. At most 100 levels deep. */
export function parseJson(text: string): Result<JsonBody, string> {
  if (deeperThan(text, DEEPEST)) return fail(`This JSON is nested more than ${DEEPEST} levels deep.`);
  const sound = sanitiseEscapes(text);
  try {
    return ok({ format: 'json', exact: parse(sound) as Json, plain: JSON.parse(sound) as JSONValue });
  } catch (error) {
    return fail(`This is not JSON: ${error instanceof Error ? cut(error.message, 120) : 'it cannot be read'}.`);
  }
}

function deeperThan(text: string, most: number): boolean {
  let depth = 0;
  let quoted = false;
  for (let at = 0; at < text.length; at += 1) {
    const code = text.charCodeAt(at);
    if (quoted) {
      if (code === 0x5c) at += 1;
      else if (code === 0x22) quoted = false;
    } else if (code === 0x22) quoted = true;
    else if (code === 0x5b || code === 0x7b) {
      depth += 1;
      if (depth > most) return true;
    } else if (code === 0x5d || code === 0x7d) depth -= 1;
  }
  return false;
}

const environment = new JSONPathEnvironment({ maxRecursionDepth: DEEPEST + 10 });
const kept = new Map<string, JSONPathQuery>();
const MOST_KEPT = 500;

/** Compiles a JSONPath (RFC 9535); the error says what is wrong with it. */
function compilePath(path: string): Result<JSONPathQuery, string> {
  const known = kept.get(path);
  if (known !== undefined) return ok(known);
  if (path.length > LONGEST_PATH) return fail(`A path may have at most ${LONGEST_PATH} characters.`);
  try {
    const compiled = environment.compile(path.trim());
    if (kept.size >= MOST_KEPT) kept.clear();
    kept.set(path, compiled);
    return ok(compiled);
  } catch (error) {
    return fail(error instanceof Error ? error.message : 'This is not a JSONPath.');
  }
}

/** Every value a JSONPath finds below a node, at most 50,000. */
export function queryJson(node: JsonNode, path: string): Result<JsonNode[], string> {
  const query = compilePath(path);
  if (!query.ok) return query;
  const found: JsonNode[] = [];
  try {
    for (const match of query.value.lazyQuery(node.plain)) {
      if (found.length >= MOST_NODES)
        return fail(`This path finds more than ${MOST_NODES.toLocaleString('en')} values.`);
      found.push({ plain: match.value, exact: exactAt(node.exact, match.location) });
    }
  } catch (error) {
    return fail(error instanceof Error ? error.message : 'This path cannot be followed.');
  }
  return ok(found);
}

function exactAt(json: Json, location: (string | number)[]): Json {
  return location.reduce<Json>((at, step) => (at as Record<string | number, Json>)[step] ?? null, json);
}

/** The one leaf that a path finds below a record. */
export function locateJson(record: JsonNode, path: string): Result<Found, LocateProblem> {
  const found = queryJson(record, path);
  if (!found.ok) return fail({ reason: 'bad selector', detail: found.error });
  const [first] = found.value;
  if (first === undefined) return fail({ reason: 'no match' });
  if (found.value.length > 1) return fail({ reason: 'several matches', count: found.value.length });
  return ok(leafOf(first.exact));
}

/** A leaf as found text; of a list or an object its JSON. */
function leafOf(json: Json): Found {
  if (json === null) return { text: '', currency: null, stated: 'null' };
  if (isLosslessNumber(json)) return { text: json.value, currency: null, stated: 'number' };
  if (typeof json === 'boolean') return { text: json ? 'yes' : 'no', currency: null, stated: 'flag' };
  if (typeof json === 'string') return { text: json, currency: null, stated: 'text' };
  return {
    text: JSON.stringify(json, (_key, value: unknown) => (isLosslessNumber(value) ? value.value : value)),
    currency: null,
    stated: 'text',
  };
}

/** True for an object, and not for a list or a number that keeps its digits. */
export function isObject(json: Json | undefined): json is { [key: string]: Json } {
  return typeof json === 'object' && json !== null && !Array.isArray(json) && !isLosslessNumber(json);
}

const SHALLOW = 4;
const PLAIN_NAME = /^[A-Za-z_][A-Za-z0-9_]*$/;

/** The paths of every leaf below a record, in order; lists inside a record are left to a path of her own. */
export function leafPaths(json: Json, path = '$', depth = 0): string[] {
  if (!isObject(json)) return Array.isArray(json) ? [] : [path];
  if (depth >= SHALLOW) return [];
  return Object.entries(json).flatMap(([name, member]) => leafPaths(member, `${path}${stepTo(name)}`, depth + 1));
}

/** One step of a path to a member by name (RFC 9535, 2.3.1). */
function stepTo(name: string): string {
  return PLAIN_NAME.test(name) ? `.${name}` : `['${name.replace(/\\/g, '\\\\').replace(/'/g, "\\'")}']`;
}

/** The paths of lists of objects in a body, the longest list first: where its records may be. */
export function listPaths(body: JsonBody): string[] {
  const found: { path: string; length: number }[] = [];
  const visit = (json: Json, path: string, depth: number) => {
    if (depth > SHALLOW) return;
    if (Array.isArray(json)) {
      if (json.some(isObject)) found.push({ path: `${path}[*]`, length: json.length });
    } else if (isObject(json)) {
      for (const [name, member] of Object.entries(json)) visit(member, `${path}${stepTo(name)}`, depth + 1);
    }
  };
  visit(body.exact, '$', 0);
  return found.sort((a, b) => b.length - a.length).map((each) => each.path);
}
