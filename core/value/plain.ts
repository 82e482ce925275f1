import Big from 'big.js';
import { decimal, type Decimal } from './decimal';

const MACHINE = /^[-+]?(\d+(\.\d*)?|\.\d+)([eE][-+]?\d{1,3})?$/;
const MOST_PLACES = 60;

/**
 * Reads a number as machines write it, with a point and perhaps an exponent (RFC 8259, section 6, and the metric text
 * formats): `1.5e3` is 1500. Exact; null for anything else, for `NaN` and `+Inf`, and for more than 60 digits.
 */
export function plainNumber(text: string): Decimal | null {
  const trimmed = text.trim();
  const direct = decimal(trimmed);
  if (direct !== null) return direct;
  if (!MACHINE.test(trimmed)) return null;
  const written = new Big(
    trimmed
      .replace(/^\+/, '')
      .replace(/^(-?)\./, '$10.')
      .replace(/\.(?=$|[eE])/, ''),
  );
  return Math.abs(written.e) > MOST_PLACES ? null : decimal(written.toFixed());
}
