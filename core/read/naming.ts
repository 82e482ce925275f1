import { cut } from '../value/sanitise';

/** What records are called, where that is not what their source calls them. */
export interface Naming {
  /**
   * What each is called, with its parts in braces: `{region}` a label, `{name}` a metric, `{2}` the second part of a
   * name between slashes or colons, `{article}` a field. `{region}, {device}` makes `North, desktop`.
   */
  pattern?: string;
  /** By hand, by identity; goes before the pattern. */
  own?: Record<string, string>;
}

/** What a name is made from. */
interface Named {
  identity: string;
  labels: Record<string, string>;
}

/** Characters of a name. */
const LONGEST = 120;
const MOST_SAMPLED = 500;
const MOST_PARTS = 12;

/**
 * What a record is called by a naming; null where that says nothing of it. What is missing of a pattern is left out
 * with what joins it, a name begins with a capital letter, and `hive-1` and `hive1` are said `hive 1`.
 */
export function spokenName(
  naming: Naming,
  record: Named & { textOf: (label: string) => string | null },
): string | null {
  const own =
    naming.own !== undefined && Object.hasOwn(naming.own, record.identity) ? naming.own[record.identity] : undefined;
  if (own) return cut(own, LONGEST);
  if (naming.pattern === undefined) return null;
  const parts = new PartsOf(record);
  let said = false;
  const filled = naming.pattern.replace(EVERY_PART, (_, part: string) => {
    const text = cut(parts.get(part) ?? record.textOf(part) ?? '', LONGEST);
    said ||= text !== '';
    return text;
  });
  const name = capital(tidied(filled));
  return name === '' || (!said && PART.test(naming.pattern)) ? null : cut(name, LONGEST);
}

const PART = /\{([^{}]{1,60})\}/;
const EVERY_PART = new RegExp(PART, 'g');

/** Without what joins a part that is missing to the others. */
function tidied(text: string): string {
  return text
    .replace(/\(\s*\)/g, '')
    .replace(/\s+/g, ' ')
    .replace(/\s*[,;:·](?=[\s,;:·]*(?:[,;:·]|$))/g, '')
    .replace(/^[\s,;:·]+|[\s,;:·]+$/g, '')
    .replace(/\s+([,;:])/g, '$1');
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
const spoken = (text: string) =>
  text
    .replace(/[_-]+/g, ' ')
    .replace(/(?<=\p{L}{3})(?=\d)/gu, ' ')
    .trim();

/** The parts of one record's name. */
class PartsOf {
  readonly #path: string[];

  constructor(private readonly record: Named) {
    this.#path = pathOf(record);
  }

  get(part: string): string | null {
    const { labels } = this.record;
    if (Object.hasOwn(labels, part)) return spoken(labels[part] ?? '');
    if (/^\d{1,2}$/.test(part)) return spoken(this.#path[Number(part) - 1] ?? '');
    return part === 'name' && isSample(this.record) ? metricOf(this.record) : null;
  }
}

const isSample = ({ identity, labels }: Named) => Object.keys(labels).length > 0 && identity.includes('{');
/** `orders_total` is said `orders`: that it counts up is how it is exposed, not what it is. */
const metricOf = ({ identity }: Named) => spoken((identity.split('{')[0] ?? '').replace(/_total$/, ''));

/** A name in the parts between its slashes; without any, between its colons. */
function pathOf(record: Named): string[] {
  if (isSample(record)) return [];
  const { identity } = record;
  const parts = identity.split(identity.includes('/') ? '/' : ':').filter((part) => part !== '');
  return parts.length > MOST_PARTS ? [] : parts;
}

/** A part that a pattern can be made of, and what it says of the first record that has it. */
export interface NamingPart {
  part: string;
  as: string;
}

/** The parts that a pattern can be made of. */
export function namingParts(records: Named[]): NamingPart[] {
  const sampled = records.slice(0, MOST_SAMPLED);
  const labels = [...new Set(sampled.flatMap((record) => Object.keys(record.labels)))];
  const longest = Math.max(0, ...sampled.map((record) => pathOf(record).length));
  const path = longest < 2 ? [] : Array.from({ length: longest }, (_, at) => String(at + 1));
  const parts = sampled.map((record) => new PartsOf(record));
  const first = (part: string) => parts.map((each) => each.get(part)).find(Boolean) ?? '';
  return [...(sampled.some(isSample) ? ['name'] : []), ...labels, ...path].map((part) => ({
    part: `{${part}}`,
    as: first(part),
  }));
}

/**
 * A pattern for names that people say, where a source names its records for programs: of samples the labels they differ
 * by, of points what is not common to all. Null where nothing is better than what the source says.
 */
export function proposeNaming(records: Named[]): Naming | null {
  const sampled = records.slice(0, MOST_SAMPLED);
  const [first] = sampled;
  if (first === undefined) return null;
  return sampled.every(isSample) ? namingOfSamples(sampled) : namingOfPaths(sampled);
}

function namingOfSamples(records: Named[]): Naming {
  const labels = [...new Set(records.flatMap((record) => Object.keys(record.labels)))];
  const differing = labels.filter((label) => new Set(records.map((record) => record.labels[label])).size > 1);
  const named = (differing.length > 0 ? differing : labels).map((label) => `{${label}}`).join(', ');
  return { pattern: new Set(records.map(metricOf)).size > 1 ? `{name}: ${named}` : named };
}

function namingOfPaths(records: Named[]): Naming | null {
  const paths = records.map(pathOf);
  const longest = Math.max(...paths.map((path) => path.length));
  if (longest < 2) return null;
  const [first = []] = paths;
  const common =
    new Set(paths.map((path) => path.join('/'))).size < 2
      ? 0
      : first.findIndex((part, at) => paths.some((path) => path[at] !== part));
  const from = Math.max(0, common);
  return { pattern: Array.from({ length: longest - from }, (_, at) => `{${from + at + 1}}`).join(' ') };
}
