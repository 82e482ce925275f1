import { Readable } from 'node:stream';
import { brotliCompressSync, deflateSync, gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decodeBody, readBody } from './body';

const PAGE = '<p>£24.00 café</p>';
const whole = Buffer.from(PAGE);
const stream = (...pieces: Buffer[]) => Readable.from(pieces);

describe('reading a body', () => {
  it.each([
    ['plain', undefined, whole],
    ['gzip', 'gzip', gzipSync(whole)],
    ['deflate', 'deflate', deflateSync(whole)],
    ['brotli', 'br', brotliCompressSync(whole)],
    ['an unknown coding, as it is', 'zebra', whole],
  ])('%s', async (_name, encoding, bytes) => {
    const read = await readBody(stream(bytes), encoding, 1000);
    expect(read.ok && read.value.equals(whole)).toBe(true);
  });

  it('stops at the bound, counted after decompression', async () => {
    expect(await readBody(stream(Buffer.alloc(600), Buffer.alloc(600)), undefined, 1000)).toEqual({
      ok: false,
      error: 'too large',
    });
    expect(await readBody(stream(gzipSync(Buffer.alloc(100_000))), 'gzip', 1000)).toEqual({
      ok: false,
      error: 'too large',
    });
    expect((await readBody(stream(Buffer.alloc(1000)), undefined, 1000)).ok).toBe(true);
  });

  it('fails, and does not hang, on a stream that breaks or is not what it says', async () => {
    await expect(readBody(stream(Buffer.from('not gzip')), 'gzip', 1000)).rejects.toThrow();
    const broken = new Readable({ read: () => undefined });
    setImmediate(() => broken.destroy(new Error('gone')));
    await expect(readBody(broken, 'gzip', 1000)).rejects.toThrow('gone');
  });
});

describe('decoding a body', () => {
  it('follows the byte order mark, the header, the page, and then what the bytes can be', () => {
    expect(decodeBody(Buffer.from(`\ufeff${PAGE}`, 'utf16le'), 'text/html')).toContain(PAGE);
    expect(decodeBody(Buffer.from(PAGE, 'latin1'), 'text/html; charset=iso-8859-1')).toBe(PAGE);
    const stated = `<meta charset="windows-1252">${PAGE}`;
    expect(decodeBody(Buffer.from(stated, 'latin1'), 'text/html')).toBe(stated);
    expect(decodeBody(whole, 'text/html')).toBe(PAGE);
    expect(decodeBody(Buffer.from(PAGE, 'latin1'), 'text/html')).toBe(PAGE);
    expect(decodeBody(whole, 'text/html; charset=no-such-thing')).toBe(PAGE);
  });

  it('gives text that the database can hold, whatever the bytes', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 300 }),
        fc.constantFrom('', 'text/html; charset=utf-8', 'charset=utf-16le', 'charset=shift_jis'),
        (bytes, type) => {
          expect(decodeBody(Buffer.from(bytes), type)).not.toContain('\0');
        },
      ),
    );
  });
});
