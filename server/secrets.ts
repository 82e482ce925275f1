import { createCipheriv, createDecipheriv, createHash, createHmac, hkdfSync, randomBytes } from 'node:crypto';
import { fail, ok, type Result } from '#core/result';
import type { Sealed } from './fetch/sealed';

const ALGORITHM = 'aes-256-gcm';
const KEY_BYTES = 32;
const NONCE_BYTES = 12;
const TAG_BYTES = 16;
const VERSION = 1;
/** The secrets that are stored; those of links stand in the links. */
const STORED: ReadonlySet<Purpose> = new Set(['request', 'posting']);

/** What links are sealed for. */
export type LinkPurpose = 'take on' | 'confirm' | 'invite' | 'leave' | 'own page' | 'feed';

/**
 * What something is sealed for. Each has a key of its own: what was sealed for one opens as nothing of another,
 * whatever it was sealed about.
 */
export type Purpose = 'request' | 'posting' | 'known browser' | LinkPurpose;

/**
 * Seals secrets and opens them again (AES-256-GCM, NIST SP 800-38D) under keys that are derived of that of the
 * configuration, one for each purpose (HKDF, RFC 5869). Each is bound to its purpose, its version and what it is about:
 * a secret of a request to the host that it was entered for, so that moved to another address it does not open.
 */
export class Secrets {
  readonly #key: Buffer | null;
  readonly #keys = new Map<Purpose, Buffer>();

  /** Of any text a key is made; without one nothing can be sealed or opened. */
  constructor(key: string | null) {
    this.#key = key === null ? null : createHash('sha256').update(key).digest();
  }

  /** A key for one purpose, made of that of the configuration (HMAC-SHA256), in base64url; null where there is none. */
  derive(purpose: string): string | null {
    return this.#key === null ? null : createHmac('sha256', this.#key).update(purpose).digest('base64url');
  }

  /** Seals a text. The error is the sentence for her who typed it. */
  seal(text: string, purpose: Purpose, about: string): Result<Sealed, string> {
    const key = this.#keyFor(purpose);
    if (key === null)
      return fail('This Shrike has no key to seal secrets with: set SHRIKE_SECRET_KEY and start it again.');
    const nonce = randomBytes(NONCE_BYTES);
    const cipher = createCipheriv(ALGORITHM, key, nonce).setAAD(boundTo(purpose, about));
    const body = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
    return ok({ sealed: Buffer.concat([Buffer.of(VERSION), nonce, cipher.getAuthTag(), body]).toString('base64') });
  }

  /**
   * Opens a sealed text; null when it was sealed under another key, for another purpose or about something else, or
   * tampered with. A stored secret of before there were purposes opens, too, by its host alone.
   */
  open({ sealed }: Sealed, purpose: Purpose, about: string): string | null {
    const [key, bytes] = [this.#keyFor(purpose), Buffer.from(sealed, 'base64')];
    if (key === null) return null;
    const own = bytes[0] === VERSION ? opened(key, bytes.subarray(1), boundTo(purpose, about)) : null;
    return own ?? (STORED.has(purpose) ? this.#openFormer(bytes, about) : null);
  }

  /** Opens a link that was sealed before there were purposes. Whoever asks says until when such links are honoured. */
  openFormerLink({ sealed }: Sealed, purpose: LinkPurpose): string | null {
    return this.#openFormer(Buffer.from(sealed, 'base64'), purpose);
  }

  #openFormer(bytes: Buffer, about: string): string | null {
    return this.#key === null ? null : opened(this.#key, bytes, Buffer.from(about));
  }

  #keyFor(purpose: Purpose): Buffer | null {
    if (this.#key === null) return null;
    const known = this.#keys.get(purpose);
    if (known !== undefined) return known;
    const made = Buffer.from(hkdfSync('sha256', this.#key, '', `shrike ${purpose} ${VERSION}`, KEY_BYTES));
    this.#keys.set(purpose, made);
    return made;
  }
}

const boundTo = (purpose: Purpose, about: string): Buffer => Buffer.from(JSON.stringify([VERSION, purpose, about]));

/** The text of a nonce, a tag and what they seal; null where they do not. */
function opened(key: Buffer, bytes: Buffer, about: Buffer): string | null {
  try {
    const decipher = createDecipheriv(ALGORITHM, key, bytes.subarray(0, NONCE_BYTES)).setAAD(about);
    decipher.setAuthTag(bytes.subarray(NONCE_BYTES, NONCE_BYTES + TAG_BYTES));
    const body = bytes.subarray(NONCE_BYTES + TAG_BYTES);
    return Buffer.concat([decipher.update(body), decipher.final()]).toString('utf8');
  } catch {
    return null;
  }
}
