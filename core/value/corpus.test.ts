import { describe, expect, it } from 'vitest';
import { parsePrice, parseQuantity } from './parse';

/** Prices as shops in one country write them: the text, and the amount with its currency or the reason it is refused. */
const SHOPS: Record<string, [text: string, expected: string][]> = {
  'en-GB': [
    ['£24', '24 GBP'],
    ['£24.5', '24.5 GBP'],
    ['£24.00', '24.00 GBP'],
    ['GBP 24.00', '24.00 GBP'],
    ['24.00 GBP', '24.00 GBP'],
    ['£ 1,249.00', '1249.00 GBP'],
    ['£1,249,000.50', '1249000.50 GBP'],
    ['£1249', '1249 GBP'],
    ['£0.99', '0.99 GBP'],
    ['Only £32', '32 GBP'],
    ['Now £18.50', '18.50 GBP'],
    ['RRP £40 Now £32', '32 GBP'],
    ['£24.00\u00a0inc.\u00a0VAT', '24.00 GBP'],
    ['£24.00 (ex VAT £20.00)', 'several numbers'],
    ['£2.50 each', '2.50 GBP'],
    ['45p', '0.45 GBP'],
    ['£1.2m', '1200000 GBP'],
    ['£12K', '12000 GBP'],
    ['From £24.99', 'a starting price'],
    ['starting at £5', 'a starting price'],
    ['as low as £5', 'a starting price'],
    ['3 for £10', 'a price for several'],
    ['£10 to £20', 'a range'],
    ['£10 — £20', 'a range'],
    ['10% off', 'a percentage'],
    ['Call for price', 'no number'],
    ['POA', 'no number'],
    ['€24.00', '24.00 EUR'],
    ['¥1,200', '1200 JPY'],
    ['$12.00', 'unclear currency'],
    ['£24.-', '24 GBP'],
    ['£ 24', '24 GBP'],
    ['24 GBP', '24 GBP'],
    ['Price: £24.00', '24.00 GBP'],
    ['£24.00*', '24.00 GBP'],
    ['£24.00 per kg', '24.00 GBP'],
    ['(£24.00)', '24.00 GBP'],
    ['-£5.00', '-5.00 GBP'],
    ['£-5.00', '-5.00 GBP'],
    ['£0', '0 GBP'],
    ['£0.00', '0.00 GBP'],
    ['Free', 'no number'],
    ['£24.99 £19.99', 'several numbers'],
    ['2 x £10', 'a price for several'],
    ['Buy 3 for £20.00', 'a price for several'],
    ['£5 off', '5 GBP'],
    ['20%', 'a percentage'],
    ['£1,24', '1.24 GBP'],
    ['£12,345,67', 'malformed'],
    ['£1.234.567', '1234567 GBP'],
    ['9.99', 'no currency'],
    ['£9.999', '9.999 GBP'],
    ['£1 000', '1000 GBP'],
    ['', 'empty'],
  ],
  'de-DE': [
    ['24,99 €', '24.99 EUR'],
    ['24,99€', '24.99 EUR'],
    ['EUR 24,99', '24.99 EUR'],
    ['1.249,00 €', '1249.00 EUR'],
    ['1.249 €', '1249 EUR'],
    ['1249,00 €', '1249.00 EUR'],
    ['12.345.678,90 €', '12345678.90 EUR'],
    ['0,99 €', '0.99 EUR'],
    ['24.99 €', '24.99 EUR'],
    ['statt 40,00 € jetzt 32,00 €', '32.00 EUR'],
    ['UVP 40,00 € nur 32,00 €', '32.00 EUR'],
    ['ab 24,99 €', 'a starting price'],
    ['2 für 30 €', 'a price for several'],
    ['10 € bis 20 €', 'a range'],
    ['19 % MwSt.', 'a percentage'],
    ['auf Anfrage', 'no number'],
    ['24,- €', '24 EUR'],
    ['Preis: 24,99 €', '24.99 EUR'],
    ['24,99 EUR inkl. MwSt.', '24.99 EUR'],
    ['€ 1.249,50', '1249.50 EUR'],
    ['-5,00 €', '-5.00 EUR'],
    ['1.249.000 €', '1249000 EUR'],
    ['nur 9,99 €', '9.99 EUR'],
    ['10–20 €', 'a range'],
    ['kostenlos', 'no number'],
  ],
  'de-CH': [
    ['CHF 24.90', '24.90 CHF'],
    ["CHF 1'249.00", '1249.00 CHF'],
    ['CHF 1’249.–', '1249 CHF'],
    ['Fr. 24.90', '24.90 CHF'],
  ],
  'fr-FR': [
    ['24,99 €', '24.99 EUR'],
    ['1 249,00 €', '1249.00 EUR'],
    ['1\u202f249,00\u00a0€', '1249.00 EUR'],
    ['à partir de 24,99 €', 'a starting price'],
    ['2 pour 30 €', 'a price for several'],
    ['1 249 €', '1249 EUR'],
    ['gratuit', 'no number'],
  ],
  'sv-SE': [
    ['249 kr', '249 SEK'],
    ['1 249,50 kr', '1249.50 SEK'],
    ['1 249 SEK', '1249 SEK'],
    ['från 249 kr', 'a starting price'],
  ],
  'nb-NO': [['kr 1 249,00', '1249.00 NOK']],
  'da-DK': [
    ['1.249,00 kr', '1249.00 DKK'],
    ['fra 249 kr', 'a starting price'],
  ],
  'pl-PL': [
    ['1 249,00 zł', '1249.00 PLN'],
    ['24,99 zł', '24.99 PLN'],
    ['1 249 zł', '1249 PLN'],
    ['12 499,00 PLN', '12499.00 PLN'],
  ],
  'it-IT': [
    ['€ 24,99', '24.99 EUR'],
    ['1.249,00 €', '1249.00 EUR'],
    ['€1.249', '1249 EUR'],
  ],
  'es-ES': [
    ['24,99 €', '24.99 EUR'],
    ['1.249,00 €', '1249.00 EUR'],
    ['desde 24,99 €', 'a starting price'],
  ],
  'nl-NL': [
    ['€ 24,99', '24.99 EUR'],
    ['€ 1.249,-', '1249 EUR'],
    ['€ 24,–', '24 EUR'],
  ],
  'en-IE': [['€1,249.00', '1249.00 EUR']],
  'fi-FI': [
    ['24,99 €', '24.99 EUR'],
    ['1 249,00 €', '1249.00 EUR'],
  ],
  'cs-CZ': [['1 249 Kč', '1249 CZK']],
  'en-US': [
    ['$24.99', '24.99 USD'],
    ['$1,249', '1249 USD'],
    ['US$24.99', '24.99 USD'],
    ['USD 24.99', '24.99 USD'],
    ['$24.99 USD', '24.99 USD'],
    ['$1,249.50', '1249.50 USD'],
    ['$.99', '0.99 USD'],
    ['$24.99 – $29.99', 'a range'],
    ['Was $40.00 Now $32.00', '32.00 USD'],
    ['$1.5k', '1500 USD'],
    ['from $9.99', 'a starting price'],
    ['2 for $5', 'a price for several'],
    ['C$24.99', '24.99 CAD'],
    ['€24.99', '24.99 EUR'],
  ],
  'en-CA': [['$24.99', '24.99 CAD']],
  'en-AU': [['A$24.99', '24.99 AUD']],
  'en-IN': [
    ['₹1,24,999.00', '124999.00 INR'],
    ['₹999', '999 INR'],
  ],
  'ja-JP': [['¥1,200', '1200 JPY']],
};

describe.each(Object.entries(SHOPS))('prices as shops write them in %s', (locale, prices) => {
  it.each(prices)('%s', (text, expected) => {
    const read = parsePrice(text, { locale });
    expect(read.ok ? `${read.value.value.amount} ${read.value.value.currency}` : read.error).toBe(expected);
  });
});

const NUMBERS: [text: string, locale: string, expected: string][] = [
  ['17.2 °C', 'en-GB', '17.2 °C'],
  ['17,2 °C', 'de-DE', '17.2 °C'],
  ['+3', 'en-GB', '3 null'],
  ['−12', 'en-GB', '-12 null'],
  ['1,204 reviews', 'en-GB', '1204 reviews'],
  ['4.6', 'en-GB', '4.6 null'],
  ['93%', 'en-GB', '93 %'],
  ['12.5kg', 'en-GB', '12.5 kg'],
  ['3.2k', 'en-GB', '3200 null'],
  ['4 of 5', 'en-GB', 'several numbers'],
  ['2.31 m', 'en-GB', '2.31 m'],
  ['8.4 m3/s', 'en-GB', '8.4 m3/s'],
  ['40 m²', 'en-GB', '40 m²'],
  ['55 km/h', 'en-GB', '55 km/h'],
  ['1.013,2 hPa', 'de-DE', '1013.2 hPa'],
  ['-0.5 °C', 'en-GB', '-0.5 °C'],
  ['1 204 visites', 'fr-FR', '1204 visites'],
  ['12,5 %', 'de-DE', '12.5 %'],
  ['1,5 kg', 'sv-SE', '1.5 kg'],
  ['no reviews yet', 'en-GB', 'no number'],
];

describe('numbers as pages write them', () => {
  it.each(NUMBERS)('%s in %s', (text, locale, expected) => {
    const read = parseQuantity(text, { locale });
    expect(read.ok ? `${read.value.value.amount} ${read.value.value.unit}` : read.error).toBe(expected);
  });
});

it('the corpus holds more than a hundred and fifty prices and numbers as they are written', () => {
  const texts = [
    ...Object.entries(SHOPS).flatMap(([locale, prices]) => prices.map(([text]) => `${locale} ${text}`)),
    ...NUMBERS.map(([text, locale]) => `${locale} ${text}`),
  ];
  expect(new Set(texts).size).toBe(texts.length);
  expect(texts.length).toBeGreaterThan(150);
});
