import type { Field } from '#core/read/definition';

/** The price in Skepwright's structured data, as a field. */
export const PRICE: Field = {
  key: 'price',
  label: 'price',
  role: 'price',
  type: { kind: 'money', currency: null },
  mode: 'stepwise',
  polarity: 'up is good',
  locale: null,
  locators: [{ way: 'structured', type: 'Product', path: 'offers.price' }],
};
