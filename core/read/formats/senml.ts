import { isLosslessNumber } from 'lossless-json';
import { fail, ok, type Result } from '../../result';
import { add, decimal, type Decimal } from '../../value/decimal';
import { plainNumber } from '../../value/plain';
import type { Instant } from '../../when/interval';
import type { Found, Quality } from '../found';
import { isObject, type Json, type JsonBody } from './json';

/** One resolved point of a pack. */
export interface Point {
  name: string;
  found: Found;
  at: Instant;
  quality: Quality | null;
}

/** A resolved SenML pack, its points in the order they came. */
export interface SenmlBody {
  format: 'senml';
  points: Point[];
}

const MOST_POINTS = 50_000;
/** Times below this are relative to now (RFC 8428, 4.5.3). */
const ABSOLUTE_FROM = 2 ** 28;
const VERSION = 10;

/** Units as the registry of RFC 8428, 12.1, names them, and as people write them. */
const UNITS: Record<string, string> = { Cel: '°C', '%RH': '% RH', '/': '', count: '', deg: '°' };

interface Base {
  name: string;
  time: Decimal;
  unit: string | null;
  value: Decimal;
  sum: Decimal;
}

const ZERO = decimal('0') as Decimal;

/**
 * Resolves a SenML pack in JSON (RFC 8428, 4.6): base name, time, unit, value and sum carry on from record to record.
 * Numbers stay exact. Relative times count from `receivedAt`. A `quality` beside a point is carried along. The error is
 * a sentence.
 */
export function readSenml(body: JsonBody, receivedAt: Instant): Result<SenmlBody, string> {
  if (!Array.isArray(body.exact)) return fail('This is not a SenML pack: it is not a list.');
  if (body.exact.length > MOST_POINTS)
    return fail(`This pack has more than ${MOST_POINTS.toLocaleString('en')} points.`);
  const base: Base = { name: '', time: ZERO, unit: null, value: ZERO, sum: ZERO };
  const points: Point[] = [];
  for (const [at, record] of body.exact.entries()) {
    if (!isObject(record)) return fail(`Record ${at + 1} of this pack is not an object.`);
    const unknown = Object.keys(record).find((key) => key.endsWith('_'));
    if (unknown !== undefined) return fail(`Record ${at + 1} needs “${unknown}”, which is not understood here.`);
    const version = amountOf(record.bver);
    if (version !== null && Number(version) > VERSION)
      return fail(`This pack is of version ${version}; ${VERSION} is the latest understood.`);
    carryBase(base, record);
    const point = pointOf(base, record, receivedAt);
    if (typeof point === 'string') return fail(`Record ${at + 1} of this pack ${point}.`);
    if (point !== null) points.push(point);
  }
  return points.length === 0 ? fail('This pack has no points.') : ok({ format: 'senml', points });
}

function carryBase(base: Base, record: { [key: string]: Json }): void {
  base.name = textOf(record.bn) ?? base.name;
  base.time = amountOf(record.bt) ?? base.time;
  base.unit = textOf(record.bu) ?? base.unit;
  base.value = amountOf(record.bv) ?? base.value;
  base.sum = amountOf(record.bs) ?? base.sum;
}

/** A record of bases alone is no point; the error is the end of a sentence. */
function pointOf(base: Base, record: { [key: string]: Json }, receivedAt: Instant): Point | string | null {
  const found = valueOf(base, record);
  if (found === null) return record.n === undefined ? null : 'has no value';
  const name = `${base.name}${textOf(record.n) ?? ''}`;
  if (!/^[A-Za-z0-9][A-Za-z0-9\-:./_]*$/.test(name)) return 'has no proper name';
  if ([record.bt, record.t].some((stated) => stated !== undefined && amountOf(stated) === null))
    return 'has a time that is no number';
  const time = Number(add(base.time, amountOf(record.t) ?? ZERO));
  const at = Math.round(time < ABSOLUTE_FROM ? receivedAt + time * 1000 : time * 1000);
  return { name, found, at, quality: qualityOf(record.quality) };
}

function valueOf(base: Base, record: { [key: string]: Json }): Found | null {
  const unit = textOf(record.u) ?? base.unit;
  const number = amountOf(record.v);
  if (number !== null) return numberFound(add(base.value, number), unit);
  if (typeof record.vb === 'boolean') return { text: record.vb ? 'yes' : 'no', currency: null, stated: 'flag' };
  const text = textOf(record.vs) ?? textOf(record.vd);
  if (text !== null) return { text, currency: null, stated: 'text' };
  const sum = amountOf(record.s);
  return sum === null ? null : numberFound(add(base.sum, sum), unit);
}

function numberFound(amount: Decimal, unit: string | null): Found {
  return { text: amount, currency: null, stated: 'number', unit: unit === null ? null : (UNITS[unit] ?? unit) || null };
}

function amountOf(json: Json | undefined): Decimal | null {
  return isLosslessNumber(json) ? plainNumber(json.value) : null;
}

function textOf(json: Json | undefined): string | null {
  return typeof json === 'string' ? json : null;
}

function qualityOf(json: Json | undefined): Quality | null {
  return json === 'good' || json === 'uncertain' || json === 'bad' ? json : null;
}

/** Whether JSON looks like a SenML pack: a list of objects that name points or bases. */
export function looksLikeSenml(json: Json): boolean {
  if (!Array.isArray(json) || json.length === 0) return false;
  return json
    .slice(0, 5)
    .every(
      (record) =>
        isObject(record) &&
        ('bn' in record || 'n' in record) &&
        ['v', 'vb', 'vs', 'vd', 's', 'bn'].some((key) => key in record),
    );
}
