import { describe, expect, it } from 'vitest';
import { AVAILABILITY, type FieldType } from './definition';
import { plainText, type Found } from './found';
import { parseAs } from './typed';

const page = (text: string): Found => ({ text, currency: null });
const read = (
  type: FieldType,
  found: Found,
  locale: string | null = 'en-GB',
  address: string | null = 'http://shop.example/a/b',
) => {
  const parsed = parseAs(type, found, { locale, address });
  return parsed.ok ? parsed.value.value : parsed.error;
};

describe('a state', () => {
  const state: FieldType = { kind: 'state', states: AVAILABILITY };
  it.each<[string, string]>([
    ['In stock', 'in stock'],
    ['In stock, sent in 2 days', 'in stock'],
    ['Out of stock', 'sold out'],
    ['Currently unavailable', 'sold out'],
    ['Only 3 left', 'few left'],
    ['InStock', 'in stock'],
    ['OutOfStock', 'sold out'],
    ['Nicht lieferbar', 'sold out'],
    ['Sofort verfügbar', 'in stock'],
    ['Ausverkauft!', 'sold out'],
    ['Made to order', 'to order'],
    ['Discontinued', 'discontinued'],
  ])('“%s” is %s', (text, name) => {
    expect(read(state, page(text))).toEqual({ kind: 'state', state: name });
  });

  it('is refused where no phrase of it is said', () => {
    expect(read(state, page('Ask us'))).toBe('no known state');
  });

  it('is told by whole words alone', () => {
    const lid: FieldType = {
      kind: 'state',
      states: [
        { name: 'open', phrases: ['open'] },
        { name: 'shut', phrases: ['shut'] },
      ],
    };
    expect(read(lid, page('reopened, then shut'))).toEqual({ kind: 'state', state: 'shut' });
  });
});

describe('a flag', () => {
  it.each<[string, boolean | string]>([
    ['Yes', true],
    ['open', true],
    ['NEIN', false],
    ['0', false],
    ['perhaps', 'neither yes nor no'],
  ])('“%s” is %s', (text, is) => {
    expect(read({ kind: 'flag', yes: [], no: [] }, page(text))).toEqual(
      typeof is === 'string' ? is : { kind: 'flag', is },
    );
  });

  it('goes by her own words where she gives them', () => {
    expect(read({ kind: 'flag', yes: ['running'], no: ['halted'] }, page('Halted'))).toEqual({
      kind: 'flag',
      is: false,
    });
  });

  it('of a phrase says whether it is there, in any case and over any white space', () => {
    const phrase: FieldType = { kind: 'phrase', phrase: 'Standstill  in force' };
    expect(read(phrase, page('A standstill\n in FORCE since May'))).toEqual({ kind: 'flag', is: true });
    expect(read(phrase, page('None'))).toEqual({ kind: 'flag', is: false });
  });
});

describe('a grade', () => {
  const grade: FieldType = { kind: 'grade', scale: ['A', 'B', 'C'] };
  it.each<[string, string | null]>([
    ['B', 'B'],
    ['b', 'B'],
    ['Grade C', 'C'],
    ['A or B', null],
    ['D', null],
    ['', null],
  ])('“%s” is %s', (text, on) => {
    expect(read(grade, page(text))).toEqual(
      on === null ? 'not on the scale' : { kind: 'grade', grade: on, scale: ['A', 'B', 'C'] },
    );
  });
});

describe('a link', () => {
  it.each<[string, string]>([
    ['../c', 'http://shop.example/c'],
    ['https://other.example/x?y=1', 'https://other.example/x?y=1'],
    ['//cdn.example/z.png', 'http://cdn.example/z.png'],
  ])('%s leads on from its page', (text, address) => {
    expect(read({ kind: 'link' }, page(text))).toEqual({ kind: 'link', address });
  });

  it.each(['javascript:alert(1)', 'data:text/html,x', 'file:///etc/passwd', 'mailto:a@b.example'])(
    '%s is refused',
    (text) => {
      expect(read({ kind: 'link' }, page(text))).toBe('no address');
    },
  );
});

describe('money and numbers', () => {
  it('takes the currency that a source states before the one to assume', () => {
    expect(read({ kind: 'money', currency: 'EUR' }, { text: '24.00', currency: 'GBP' })).toEqual({
      kind: 'money',
      amount: '24.00',
      currency: 'GBP',
    });
    expect(read({ kind: 'money', currency: 'EUR' }, { text: '24.00', currency: null, stated: 'number' })).toEqual({
      kind: 'money',
      amount: '24.00',
      currency: 'EUR',
    });
  });

  it('reads what is struck out beside a price as no part of it', () => {
    expect(
      read({ kind: 'money', currency: null }, { text: '£30.00 £24.00', standing: '£24.00', currency: null }),
    ).toMatchObject({ amount: '24.00' });
  });

  it('takes a machine’s number by its point, whatever the page’s language', () => {
    expect(read({ kind: 'money', currency: null }, { text: '1249.00', currency: 'EUR' }, 'de-DE')).toMatchObject({
      amount: '1249.00',
    });
    expect(read({ kind: 'number' }, page('1.249,5 kg'), 'de-DE')).toEqual({
      kind: 'number',
      amount: '1249.5',
      unit: 'kg',
    });
  });

  it('reads the empty cell and the dash of a data format as absent, and on a page as nothing said', () => {
    for (const nothing of ['', '-', 'n/a', 'None'])
      expect(read({ kind: 'number' }, plainText(nothing))).toEqual({ kind: 'absent' });
    expect(read({ kind: 'number' }, page('–'))).not.toEqual({ kind: 'absent' });
    expect(read({ kind: 'money', currency: 'GBP' }, { text: 'null', currency: null, stated: 'null' })).toEqual({
      kind: 'absent',
    });
  });

  it('keeps the unit it is given where none is written', () => {
    expect(read({ kind: 'number', unit: 'kg' }, page('50'))).toEqual({ kind: 'number', amount: '50', unit: 'kg' });
    expect(read({ kind: 'number', unit: 'kg' }, page('50 g'))).toMatchObject({ unit: 'g' });
  });
});

describe('a text', () => {
  it('is folded, and what is masked is out of it', () => {
    expect(read({ kind: 'text', masks: ['visitor \\d+'] }, page('You are\n  visitor 410233.'))).toEqual({
      kind: 'text',
      text: 'You are ….',
    });
    expect(read({ kind: 'text', masks: ['(unclosed'] }, page('a  b'))).toEqual({ kind: 'text', text: 'a b' });
  });
});
