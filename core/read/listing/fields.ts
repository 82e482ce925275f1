import { isCurrency } from '../../value/currency';
import { parseMoment } from '../../value/timestamp';
import { foldText } from '../../value/parse';
import { AVAILABILITY, GRADES, inRole, type Field, type FieldType } from '../definition';
import type { Found } from '../found';
import { framesOf } from '../frame/of-records';
import { freeKey } from '../keys';
import type { RawRecord } from '../records';
import { parseAs } from '../typed';
import type { Column } from './column';

/** Types fields from the texts that stand in them in the first records. */
export function proposeFields(records: RawRecord[], columns: Column[], locale: string | null): Field[] {
  const keys: string[] = [];
  const stated = statedCurrency(records, columns);
  return columns.flatMap((column) => {
    const samples = records.flatMap((record) => {
      const found = record.find(column.locator);
      return found.ok && foldText(found.value.text) !== '' ? found.value : [];
    });
    if (samples.length === 0) return [];
    const type =
      column.mode === 'measured'
        ? measuredType(records, samples)
        : typeOfSamples(column.label, samples, locale, stated);
    const key = freeKey(column.label, keys);
    keys.push(key);
    return [
      inRole({
        key,
        label: column.label,
        type,
        mode: column.mode ?? 'stepwise',
        polarity: 'neither',
        locale: commaDecimal(type, samples, locale),
        locators: [column.locator],
        ...framedBy(records, column, type),
      }),
    ];
  });
}

/** What stands around it in the records of a page. */
function framedBy(records: RawRecord[], { locator }: Column, type: FieldType): Pick<Field, 'frames'> {
  const frames = framesOf(records, locator, type);
  return frames.length === 0 ? {} : { frames };
}

function measuredType(records: RawRecord[], samples: Found[]): FieldType {
  const numbers = samples.every((sample) => sample.stated === 'number');
  const counter = records.some((record) => record.name !== null && /_total(\{|$)/.test(record.name));
  return numbers ? { kind: 'number', ...(counter ? { increase: true } : {}) } : { kind: 'stated' };
}

const STATES = /avail|stock|status|lager|bestand|verfüg/i;
const AMOUNTS = /price|preis|amount|cost|revenue|total|minimum|fee|spend|refund|wert/i;

/** The first type, of those that a column of this name may have, that all its samples can be read as. */
function typeOfSamples(label: string, samples: Found[], locale: string | null, stated: string | null): FieldType {
  const every = (type: FieldType) =>
    samples.every((sample) => parseAs(type, sample, { locale, address: 'http://relative.example/' }).ok);
  const texts = samples.map((sample) => foldText(sample.text));
  const currency = currencyBy(label) ?? (AMOUNTS.test(label) ? stated : null);
  const states: FieldType = { kind: 'state', states: AVAILABILITY };
  const tests: [FieldType, () => boolean][] = [
    [{ kind: 'money', currency }, () => currency !== null && every({ kind: 'money', currency })],
    [{ kind: 'flag', yes: [], no: [] }, () => samples.every((sample) => sample.stated === 'flag')],
    [linkType(texts), () => texts.every((text) => /^https?:\/\//.test(text))],
    [
      { kind: 'moment' },
      () => texts.every((text) => LIKE_A_DAY.test(text) && parseMoment(text, locale ?? 'en-GB') !== null),
    ],
    [{ kind: 'money', currency: null }, () => every({ kind: 'money', currency: null })],
    [states, () => STATES.test(label) && every(states)],
    [{ kind: 'number' }, () => texts.every((text) => NUMERIC.test(text)) && readAsNumbers(samples, locale, every)],
    [{ kind: 'grade', scale: GRADES }, () => texts.length > 1 && texts.every((text) => /^[A-F][+-]?$/.test(text))],
  ];
  return tests.find(([, fits]) => fits())?.[0] ?? { kind: 'text' };
}

const LIKE_A_DAY = /\d{4}|\d{1,2}[./]\d{1,2}/;
const NUMERIC = /^[-+]?[\d.,\s]*\d[\d.,\s]*\s?(%|°?[A-Za-z]{0,3})$/;

function linkType([first = '']: string[]): FieldType {
  return { kind: /\.(png|jpe?g|webp|gif|svg)(\?|$)/i.test(first) ? 'picture' : 'link' };
}

function readAsNumbers(samples: Found[], locale: string | null, every: (type: FieldType) => boolean): boolean {
  return every({ kind: 'number' }) || commaDecimal({ kind: 'number' }, samples, locale) !== null;
}

/** The one currency that the records themselves state, in a column of its own. */
function statedCurrency(records: RawRecord[], columns: Column[]): string | null {
  for (const { locator } of columns) {
    const texts = new Set(
      records.flatMap((record) => {
        const found = record.find(locator);
        return found.ok && found.value.text !== '' ? found.value.text : [];
      }),
    );
    const [only] = texts;
    if (texts.size === 1 && only !== undefined && isCurrency(only)) return only;
  }
  return null;
}

/** `price_gbp` and `spend (EUR)` say their currency. */
function currencyBy(label: string): string | null {
  const code = /(?:^|[\s_(])([a-z]{3})\)?$/i.exec(label)?.[1]?.toUpperCase();
  return code !== undefined && isCurrency(code) ? code : null;
}

/** A table without a stated language whose decimals follow a comma is read as such. */
function commaDecimal(type: FieldType, samples: Found[], locale: string | null): string | null {
  if (locale !== null || (type.kind !== 'number' && type.kind !== 'money')) return null;
  const texts = samples.filter((sample) => sample.stated === 'text').map((sample) => foldText(sample.text));
  const comma =
    texts.some((text) => /\d,\d{1,2}(?!\d)/.test(text)) && !texts.some((text) => /\d\.\d{1,2}(?!\d)/.test(text));
  return comma ? 'de-DE' : null;
}
