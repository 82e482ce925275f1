import type { Readable } from 'node:stream';
import { createBrotliDecompress, createGunzip, createInflate } from 'node:zlib';
import { fail, ok, type Result } from '#core/result';

const DECODERS: Record<string, () => NodeJS.ReadWriteStream> = {
  gzip: createGunzip,
  'x-gzip': createGunzip,
  deflate: createInflate,
  br: createBrotliDecompress,
};

/** Reads a response body, decompressed, up to a number of bytes; past that it is refused and the stream closed. */
export async function readBody(
  stream: Readable,
  encoding: string | undefined,
  mostBytes: number,
): Promise<Result<Buffer, 'too large'>> {
  const decoder = DECODERS[encoding?.trim().toLowerCase() ?? '']?.();
  if (decoder !== undefined) stream.on('error', (error) => (decoder as unknown as Readable).destroy(error));
  const source = decoder === undefined ? stream : (stream.pipe(decoder) as unknown as Readable);
  const pieces: Buffer[] = [];
  let size = 0;
  try {
    for await (const piece of source as AsyncIterable<Buffer>) {
      size += piece.length;
      if (size > mostBytes) return fail('too large');
      pieces.push(piece);
    }
  } finally {
    stream.destroy();
  }
  return ok(Buffer.concat(pieces, size));
}

const SNIFFED = 1024;

/**
 * Decodes a page's bytes: by its byte order mark, the header's charset, the one its own meta states, else UTF-8
 * and, where that fails, Windows-1252 (after the WHATWG Encoding Standard).
 */
export function decodeBody(bytes: Buffer, contentType: string): string {
  const label = byMark(bytes) ?? charsetIn(contentType) ?? charsetIn(bytes.subarray(0, SNIFFED).toString('latin1'));
  const decoder = label === null ? null : decoderFor(label);
  if (decoder !== null) return clean(decoder.decode(bytes));
  try {
    return clean(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch {
    return clean(new TextDecoder('windows-1252').decode(bytes));
  }
}

/** PostgreSQL's text holds no NUL; no page means one. */
function clean(text: string): string {
  return text.includes('\0') ? text.replaceAll('\0', '\uFFFD') : text;
}

function byMark(bytes: Buffer): string | null {
  if (bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf) return 'utf-8';
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le';
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  return null;
}

function charsetIn(text: string): string | null {
  return /charset\s*=\s*["']?\s*([\w-]+)/i.exec(text)?.[1] ?? null;
}

function decoderFor(label: string): InstanceType<typeof TextDecoder> | null {
  try {
    return new TextDecoder(label);
  } catch {
    return null;
  }
}
