import type { Refusal } from './parse';

const SENTENCES: Record<Refusal, string> = {
  empty: 'there is no text here',
  'no number': 'there is no number in this text',
  'several numbers': 'there is more than one number in this text',
  'a range': 'this is a range, not one price',
  'a starting price': 'this is a starting price (“from …”), not the price',
  'a price for several': 'this is a price for several pieces together',
  'a percentage': 'this is a percentage, not a price',
  'no currency': 'no currency is shown beside the number',
  'unclear currency': 'the currency sign is shared by several currencies and the page does not say which',
  ambiguous: 'the mark in this number could group thousands or begin the decimals, and the page does not say which',
  malformed: 'the digits are not grouped like a number',
  'in brackets': 'the number stands in brackets, which may set it aside or make it negative',
  'an exponent': 'it is written with an exponent',
  'too long': 'the text is too long to be a number',
  'neither yes nor no': 'none of the phrases for yes or no fits',
  'no known state': 'none of the states’ phrases stands in it',
  'not on the scale': 'it is not on the scale',
  'no moment': 'it cannot be read as a date or a time',
  'no address': 'it is no web address',
};

/** Why a text was refused, as the end of a sentence. */
export function describeRefusal(refusal: Refusal): string {
  return SENTENCES[refusal];
}
