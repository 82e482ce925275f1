import { fail, ok, type Result } from '../result';
import type { Instant } from '../when/interval';
import { parseCsv, type CsvBody } from './formats/csv';
import { parseFeed, type FeedBody } from './formats/feed';
import { parseJson, type JsonBody } from './formats/json';
import { parseMetrics, type MetricsBody } from './formats/metrics';
import { looksLikeSenml, readSenml, type SenmlBody } from './formats/senml';
import { parseXml, type XmlBody } from './formats/xml';
import { parseHtml, type Document } from './html';

/** A page. */
export interface HtmlBody {
  format: 'html';
  document: Document;
}

/** A body, parsed by its format. */
export type Body = HtmlBody | JsonBody | CsvBody | XmlBody | FeedBody | MetricsBody | SenmlBody;

/** The formats that can be read. */
export type Format = Body['format'];

/** The names of the formats, as they are told. */
export const FORMAT_NAMES: Record<Format, string> = {
  html: 'a web page',
  json: 'JSON',
  csv: 'a table (CSV)',
  xml: 'XML',
  feed: 'a feed (RSS or Atom)',
  metrics: 'metrics (OpenMetrics or Prometheus text)',
  senml: 'sensor readings (SenML)',
};

/** Parses a body in a format; the error is a sentence that says why it is not in it. */
export function openBody(text: string, format: Format, receivedAt: Instant): Result<Body, string> {
  switch (format) {
    case 'html':
      return openPage(text);
    case 'json':
      return parseJson(text);
    case 'csv':
      return looksLikeMarkup(text) ? fail('This is not a table but a page.') : parseCsv(text);
    case 'xml':
      return parseXml(text);
    case 'feed':
      return parseFeed(text);
    case 'metrics':
      return parseMetrics(text);
    case 'senml': {
      const json = parseJson(text);
      return json.ok ? readSenml(json.value, receivedAt) : json;
    }
  }
}

function openPage(text: string): Result<HtmlBody, string> {
  if (!looksLikeMarkup(text)) return fail('This is not a web page: it has no markup.');
  const parsed = parseHtml(text);
  return parsed.ok ? ok({ format: 'html', document: parsed.value }) : parsed;
}

const looksLikeMarkup = (text: string) => /<[a-z!?/]/i.test(text.slice(0, 20_000));

/** The format that a body is in, told from its content alone: what a server says of it is often wrong. */
export function sniffFormat(text: string): Format {
  const start = text
    .slice(0, 4000)
    .replace(/^\uFEFF/, '')
    .trimStart();
  if (/^[{[]/.test(start)) {
    const json = parseJson(text);
    if (json.ok) return looksLikeSenml(json.value.exact) ? 'senml' : 'json';
  }
  if (start.startsWith('<')) return sniffMarkup(start);
  if (/^# (TYPE|HELP|UNIT) \S/m.test(start)) return 'metrics';
  const lines = start
    .split('\n')
    .slice(0, 20)
    .map((line) => line.trim())
    .filter((line) => line !== '' && !line.startsWith('#'));
  if (
    lines.length > 0 &&
    lines.every((line) => /^[a-zA-Z_:][\w:]*(\{.*\})?\s+[-+\d.eEInfNa]+(\s+\d+(\.\d+)?)?$/.test(line))
  )
    return 'metrics';
  return looksLikeMarkup(start) ? 'html' : 'csv';
}

function sniffMarkup(start: string): Format {
  const root =
    /<([A-Za-z_][\w:.-]*)/.exec(
      start.replace(/<\?[^>]*\?>|<!--[\s\S]*?-->|<!DOCTYPE[^>[]*(\[[\s\S]*?\])?[^>]*>/gi, ''),
    )?.[1] ?? '';
  if (/<!doctype html/i.test(start) || /^(html|head|body)$/i.test(root)) return 'html';
  if (['rss', 'feed', 'rdf:RDF'].includes(root)) return 'feed';
  return start.startsWith('<?xml') || !/^(div|p|main|section|table|span|article|ul|header|h[1-6])$/i.test(root)
    ? 'xml'
    : 'html';
}
