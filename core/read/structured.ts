import { isLosslessNumber, parse } from 'lossless-json';
import { selectAll } from 'css-select';
import type { AnyNode } from 'domhandler';
import type { StructuredLeaf } from './leaf';
import { microdataLeaves } from './microdata';
import { textOf, type Document, type Element } from './html';
import { keptFor } from './order';
import { sanitiseEscapes } from '../value/sanitise';

type Json = string | boolean | null | Json[] | { [key: string]: Json };

/** Terms may be written with their namespace, as `https://schema.org/InStock`. */
const SCHEMA = /^https?:\/\/schema\.org\//;
const MOST_LEAVES = 2000;
const DEEPEST = 12;

/**
 * Every leaf of the schema.org JSON-LD (https://schema.org, JSON-LD 1.1) and microdata (WHATWG HTML, 5) in a scope,
 * each under its nearest typed top-level node, both with the same paths. Numbers keep their digits as written. Blocks
 * that are not JSON are passed over: a page with one broken block still has its others. Bounded to 2,000 leaves and 12
 * levels.
 */
export const structuredLeaves = keptFor((scope: Document | Element): StructuredLeaf[] => {
  const leaves = [...jsonLdLeaves(scope), ...microdataLeaves(scope)];
  return leaves.slice(0, MOST_LEAVES);
});

function jsonLdLeaves(scope: Document | Element): StructuredLeaf[] {
  const leaves: StructuredLeaf[] = [];
  for (const script of selectAll<AnyNode, Element>('script[type="application/ld+json"]', scope)) {
    for (const node of nodesOf(readJson(textOf(script)))) {
      const type = typeOf(node);
      if (type !== null) walk(node, { type, path: '', currency: null }, leaves, 0);
    }
  }
  return leaves;
}

function readJson(text: string): Json {
  try {
    return parse(sanitiseEscapes(text), null, { parseNumber: (digits: string) => digits }) as Json;
  } catch {
    return null;
  }
}

function nodesOf(json: Json): { [key: string]: Json }[] {
  if (Array.isArray(json)) return json.flatMap(nodesOf);
  if (!isObject(json)) return [];
  const graph = json['@graph'];
  return graph === undefined ? [json] : nodesOf(graph);
}

function typeOf(node: { [key: string]: Json }): string | null {
  const type = node['@type'];
  const name = Array.isArray(type) ? type[0] : type;
  return typeof name === 'string' ? name.replace(SCHEMA, '') : null;
}

type Within = Pick<StructuredLeaf, 'type' | 'path' | 'currency'>;

function walk(json: Json, within: Within, leaves: StructuredLeaf[], depth: number): void {
  const { type, path, currency } = within;
  if (leaves.length >= MOST_LEAVES || depth > DEEPEST) return;
  if (Array.isArray(json)) {
    for (const member of json) walk(member, within, leaves, depth + 1);
  } else if (isObject(json)) {
    const stated = json.priceCurrency;
    const here = typeof stated === 'string' ? stated : currency;
    for (const [key, member] of Object.entries(json)) {
      if (key.startsWith('@')) continue;
      walk(member, { type, path: path === '' ? key : `${path}.${key}`, currency: here }, leaves, depth + 1);
    }
  } else if (json !== null) {
    leaves.push({ type, path, text: String(json).replace(SCHEMA, ''), currency, element: null });
  }
}

function isObject(json: Json): json is { [key: string]: Json } {
  return typeof json === 'object' && json !== null && !Array.isArray(json) && !isLosslessNumber(json);
}
