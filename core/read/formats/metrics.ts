import { fail, ok, type Result } from '../../result';
import { multiply, decimal, type Decimal } from '../../value/decimal';
import { plainNumber } from '../../value/plain';
import type { Instant } from '../../when/interval';
import { cut } from '../../value/sanitise';

/** One labelled sample of a metric. */
export interface Sample {
  /** The sample's own name, with its suffix: `orders_total`. */
  name: string;
  /** The metric it belongs to. */
  family: string;
  labels: Record<string, string>;
  value: string;
  at: Instant | null;
}

/** A metric, as its own lines describe it. */
interface Family {
  name: string;
  type: string;
  unit: string | null;
  help: string | null;
}

/** A parsed exposition. */
export interface MetricsBody {
  format: 'metrics';
  families: Record<string, Family>;
  samples: Sample[];
}

const MOST_SAMPLES = 50_000;
const MOST_LABELS = 64;
const NAME = /^[a-zA-Z_:][a-zA-Z0-9_:]*/;
const LABEL = /\s*([a-zA-Z_][a-zA-Z0-9_]*)\s*=\s*"((?:[^"\\]|\\.)*)"\s*,?/y;
const SUFFIX = /_(total|created|sum|count|bucket|info)$/;

/**
 * Reads OpenMetrics 1.0 and the Prometheus text format 0.0.4. Values keep their digits. OpenMetrics (which ends in `#
 * EOF`) states times in seconds, the older format in milliseconds. Exemplars are passed over. The error names the line.
 */
export function parseMetrics(text: string): Result<MetricsBody, string> {
  const families: Record<string, Family> = Object.create(null) as Record<string, Family>;
  const samples: Sample[] = [];
  const seconds = /^# EOF\s*$/m.test(text);
  let number = 0;
  for (const line of text.split('\n')) {
    number += 1;
    if (line.startsWith('#')) describe(families, line);
    else if (line.trim() !== '') {
      const sample = readSample(line, families, seconds);
      if (sample === null) return fail(`Line ${number} is no sample: “${cut(line, 60)}”.`);
      if (samples.length >= MOST_SAMPLES)
        return fail(`This exposition has more than ${MOST_SAMPLES.toLocaleString('en')} samples.`);
      samples.push(sample);
    }
  }
  return samples.length === 0 ? fail('This exposition has no samples.') : ok({ format: 'metrics', families, samples });
}

function describe(families: Record<string, Family>, line: string): void {
  const [, what, name, rest = ''] = /^#\s+(TYPE|HELP|UNIT)\s+(\S+)\s*(.*)$/.exec(line) ?? [];
  if (what === undefined || name === undefined) return;
  const family = (families[name] ??= { name, type: 'unknown', unit: null, help: null });
  if (what === 'TYPE') family.type = rest.trim();
  else if (what === 'UNIT') family.unit = rest.trim() || null;
  else family.help = rest.trim() || null;
}

function readSample(line: string, families: Record<string, Family>, seconds: boolean): Sample | null {
  const name = NAME.exec(line)?.[0];
  if (name === undefined) return null;
  const labels = readLabels(line, name.length);
  if (labels === null) return null;
  const rest = (line.slice(labels.end).split(/\s#\s/)[0] ?? '').trim().split(/\s+/);
  const [value, time] = rest;
  if (value === undefined || value === '' || rest.length > 2 || !isNumber(value)) return null;
  return {
    name,
    family: familyOf(families, name),
    labels: labels.labels,
    value,
    at: time === undefined ? null : instantOf(time, seconds),
  };
}

function isNumber(value: string): boolean {
  return plainNumber(value) !== null || /^([+-]?inf(inity)?|nan)$/i.test(value);
}

function readLabels(line: string, from: number): { labels: Record<string, string>; end: number } | null {
  const labels: Record<string, string> = Object.create(null) as Record<string, string>;
  if (line[from] !== '{') return { labels, end: from };
  LABEL.lastIndex = from + 1;
  let at = from + 1;
  let count = 0;
  for (let match = LABEL.exec(line); match !== null; match = LABEL.exec(line)) {
    labels[match[1] ?? ''] = unescape(match[2] ?? '');
    at = LABEL.lastIndex;
    count += 1;
    if (count > MOST_LABELS) return null;
  }
  const end = line.indexOf('}', at);
  return end < 0 || line.slice(at, end).trim() !== '' ? null : { labels, end: end + 1 };
}

function unescape(text: string): string {
  return text.replace(/\\(.)/g, (_all, mark: string) => (mark === 'n' ? '\n' : mark));
}

function familyOf(families: Record<string, Family>, name: string): string {
  if (families[name] !== undefined) return name;
  const base = name.replace(SUFFIX, '');
  return families[base] === undefined ? name : base;
}

function instantOf(text: string, seconds: boolean): Instant | null {
  const stated = plainNumber(text);
  if (stated === null) return null;
  return Math.round(Number(seconds ? multiply(stated, decimal('1000') as Decimal) : stated));
}

/** What makes a sample its own: its name and its labels, in order of their names. */
export function sampleIdentity({ name, labels }: Sample): string {
  const keys = Object.keys(labels).sort();
  if (keys.length === 0) return name;
  let pairs = '';
  for (const key of keys) pairs += `${pairs === '' ? '' : ','}${key}=${JSON.stringify(labels[key])}`;
  return `${name}{${pairs}}`;
}
