import { createCipheriv, createDecipheriv, createHash, createHmac, randomBytes } from 'node:crypto';
import { fail, ok, type Result } from '#core/result';
import type { Sealed } from './fetch/sealed';

const ALGORITHM = 'aes-256-gcm';
const NONCE_BYTES = 12;
const TAG_BYTES = 16;

/**
 * Seals secrets for the database and opens them again (AES-256-GCM, NIST SP 800-38D), under the key of the
 * configuration. Each is bound to the host it was entered for: moved to another address it does not open.
 */
export class Secrets {
  readonly #key: Buffer | null;

  /** Of any text a key is made; without one nothing can be sealed or opened. */
  constructor(key: string | null) {
    this.#key = key === null ? null : createHash('sha256').update(key).digest();
  }

  /** A key for one purpose, made of that of the configuration (HMAC-SHA256), in base64url; null where there is none. */
  derive(purpose: string): string | null {
    return this.#key === null ? null : createHmac('sha256', this.#key).update(purpose).digest('base64url');
  }

  /** Seals a text. The error is the sentence for her who typed it. */
  seal(text: string, host: string): Result<Sealed, string> {
    if (this.#key === null)
      return fail('This Shrike has no key to seal secrets with: set SHRIKE_SECRET_KEY and start it again.');
    const nonce = randomBytes(NONCE_BYTES);
    const cipher = createCipheriv(ALGORITHM, this.#key, nonce).setAAD(Buffer.from(host));
    const body = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
    return ok({ sealed: Buffer.concat([nonce, cipher.getAuthTag(), body]).toString('base64') });
  }

  /** Opens a sealed text; null when it was sealed under another key or for another host, or tampered with. */
  open({ sealed }: Sealed, host: string): string | null {
    if (this.#key === null) return null;
    const bytes = Buffer.from(sealed, 'base64');
    try {
      const decipher = createDecipheriv(ALGORITHM, this.#key, bytes.subarray(0, NONCE_BYTES));
      decipher.setAAD(Buffer.from(host));
      decipher.setAuthTag(bytes.subarray(NONCE_BYTES, NONCE_BYTES + TAG_BYTES));
      return Buffer.concat([decipher.update(bytes.subarray(NONCE_BYTES + TAG_BYTES)), decipher.final()]).toString(
        'utf8',
      );
    } catch {
      return null;
    }
  }
}
