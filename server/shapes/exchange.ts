import Joi from 'joi';
import { undefused, writeCsv } from '#core/items/sheet';
import type { Exchange, ExchangedRule, ExchangedWatch } from '#core/plan/exchange';
import { MOST_RULES } from '#core/plan/plan';
import { parseCsv } from '#core/read/formats/csv';
import { fail, ok, type Result } from '#core/result';
import { sanitiseEscapes } from '#core/value/sanitise';
import { SOURCE_WAYS } from '../fetch/request';
import { rowId } from '#core/judge/schema';
import { ruleParts } from './rule';
import { checked, reads, sourceRequest } from './plan';

// The shape of a document of watches that comes from outside, as JSON and as CSV.

const MOST_WATCHES = 2_000;
const tag = Joi.string().max(40);

const watch = Joi.object<ExchangedWatch>({
  number: rowId.required(),
  address: Joi.string().max(2_000).required(),
  way: Joi.valid(...SOURCE_WAYS).required(),
  request: sourceRequest.required(),
  site: Joi.string().max(120).required(),
  every: Joi.object({
    count: Joi.number().integer().min(1).max(100_000).required(),
    unit: Joi.valid('second', 'minute', 'hour', 'day').required(),
  }).required(),
  state: Joi.valid('running', 'paused').required(),
  tags: Joi.array().items(tag).max(20).required(),
  reads: reads.required(),
  rules: Joi.array().items(Joi.any()).max(MOST_RULES).required(),
});

const rule = Joi.object<ExchangedRule>({
  ...ruleParts,
  owner: Joi.string().max(320),
  tells: Joi.array().items(Joi.string().max(400)).max(50).required(),
});

const exchange = Joi.object<Exchange>({
  format: Joi.valid('shrike watches').required(),
  version: Joi.valid(1).required(),
  written: Joi.string().max(40).required(),
  channels: Joi.object()
    .pattern(/^\d{1,9}$/, Joi.string().max(120))
    .required(),
  watches: Joi.array().items(Joi.any()).max(MOST_WATCHES).required(),
});

/** A document of watches; each of its watches by itself is one, or why it is none. */
export interface ReadDocument {
  document: Exchange;
  /** Lines that have no shape, with why. */
  refused: { line: number; name: string; said: string }[];
}

/** A document of which nothing but its frame was looked at. */
export interface OpenedDocument {
  /** Without its watches. */
  frame: Exchange;
  found: unknown[];
}

/** Opens a document as it came: JSON, or else CSV. */
export function openDocument(text: string): Result<OpenedDocument, string> {
  return text.trimStart().startsWith('{') ? openJson(text) : openCsv(text);
}

/** Reads a whole document. A watch without a shape is refused by itself. */
export function readDocument(text: string): Result<ReadDocument, string> {
  const opened = openDocument(text);
  if (!opened.ok) return opened;
  const { watches, refused } = watchesFrom(opened.value, 0, opened.value.found.length);
  return ok({ document: { ...opened.value.frame, watches }, refused });
}

function openJson(text: string): Result<OpenedDocument, string> {
  const whole = checked<Exchange>(exchange, text);
  if (!whole.ok) return fail(`This is no document of watches: ${whole.error.replace(/\.$/, '')}.`);
  return ok({ frame: { ...whole.value, watches: [] }, found: whole.value.watches });
}

/** Some of the watches of a document, from a place on, that have a shape; and why the others have none. */
export function watchesFrom(
  { found }: OpenedDocument,
  from: number,
  most: number,
): { watches: ExchangedWatch[]; refused: ReadDocument['refused'] } {
  const watches: ExchangedWatch[] = [];
  const refused: ReadDocument['refused'] = [];
  found.slice(from, from + most).forEach((each, at) => {
    const one = watchChecked(each);
    if (one.ok) watches.push(one.value);
    else
      refused.push({ line: from + at + 1, name: nameIn(each), said: `It has no shape that is known: ${one.error}.` });
  });
  return { watches, refused };
}

/** What a condition may take as JSON: a tree of hundreds of clauses, of which each is checked against every kind. */
const MOST_CONDITION = 50_000;

function watchChecked(said: unknown): Result<ExchangedWatch, string> {
  const read = watch.validate(said, { convert: false });
  if (read.error) return fail(read.error.message);
  for (const [at, each] of read.value.rules.entries()) {
    if (JSON.stringify(each.when ?? null).length > MOST_CONDITION) return fail(`what rule ${at + 1} says is too long`);
    const { error } = rule.validate(each, { convert: false });
    if (error) return fail(`in rule ${at + 1}, ${error.message}`);
  }
  return ok(read.value);
}

function nameIn(said: unknown): string {
  const subject = (said as { reads?: { subject?: unknown } } | null)?.reads?.subject;
  return typeof subject === 'string' ? subject.slice(0, 120) : '';
}

const HEADS = [
  'number',
  'name',
  'address',
  'site',
  'every',
  'unit',
  'state',
  'tags',
  'way',
  'request',
  'reads',
  'rules',
  'channels',
] as const;

/** A document as CSV: a line a watch; what is no word or number stands as JSON in its cell. */
export function writeExchangeCsv({ watches, channels }: Exchange): string {
  return writeCsv(
    [...HEADS],
    watches.map(({ number, address, site, every, state, tags, way, request, reads: read, rules }) => [
      String(number),
      read.subject,
      address,
      site,
      String(every.count),
      every.unit,
      state,
      tags.join(', '),
      way,
      JSON.stringify(request),
      JSON.stringify(read),
      JSON.stringify(rules),
      JSON.stringify(channels),
    ]),
  );
}

function openCsv(text: string): Result<OpenedDocument, string> {
  const table = parseCsv(text);
  if (!table.ok) return table;
  const missing = HEADS.filter((head) => !table.value.columns.includes(head));
  if (missing.length > 0) return fail(`These columns are missing: ${missing.join(', ')}.`);
  if (table.value.rows.length > MOST_WATCHES) return fail(`A document may have at most ${MOST_WATCHES} watches.`);
  const rows = table.value.rows.map(
    (row) => new Map(table.value.columns.map((head, at) => [head, undefused(row[at] ?? '')])),
  );
  const channels = Object.assign({}, ...rows.map((row) => jsonIn(row.get('channels')) ?? {})) as Exchange['channels'];
  const frame: Exchange = { format: 'shrike watches', version: 1, written: '', channels, watches: [] };
  return ok({ frame, found: rows.map(watchIn) });
}

/** A watch as a line says it: its name is that of its own cell. */
function watchIn(row: ReadonlyMap<string, string>): unknown {
  const of = (head: (typeof HEADS)[number]) => row.get(head) ?? '';
  const read = jsonIn(of('reads'));
  return {
    number: Number(of('number')),
    address: of('address'),
    way: of('way'),
    request: jsonIn(of('request')),
    site: of('site'),
    every: { count: Number(of('every')), unit: of('unit') },
    state: of('state'),
    tags: of('tags')
      .split(',')
      .map((each) => each.trim())
      .filter((each) => each !== ''),
    reads: typeof read === 'object' && read !== null ? { ...read, subject: of('name') } : read,
    rules: jsonIn(of('rules')),
  };
}

function jsonIn(text: string | undefined): unknown {
  try {
    return JSON.parse(sanitiseEscapes(text ?? ''));
  } catch {
    return null;
  }
}
