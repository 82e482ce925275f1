import { deflateRawSync, gzipSync } from 'node:zlib';

const ok = 'HTTP/1.1 200 OK\r\n';
const html = 'content-type: text/html\r\n';
const page = '<!doctype html><p>£24.00</p>';
const whole = `${html}content-length: ${Buffer.byteLength(page)}\r\n\r\n${page}`;
const compressed = (encoding: string, body: Buffer) =>
  Buffer.concat([
    Buffer.from(`${ok}${html}content-encoding: ${encoding}\r\ncontent-length: ${body.length}\r\n\r\n`),
    body,
  ]);

/** Answers that no honest server gives, and a few that one may, byte by byte. */
export const RAW_ANSWERS: Record<string, string | Buffer> = {
  'a page': ok + whole,
  'a Trailer header':
    `${ok}trailer: x-sum\r\ntransfer-encoding: ` + `chunked\r\n${html}\r\n5\r\n<p>hi\r\n0\r\nx-sum: 1\r\n\r\n`,
  'a Trailer header with a length': `${ok}trailer: expires\r\n${whole}`,
  'status 000': `HTTP/1.1 000 None\r\n${whole}`,
  'status 099': `HTTP/1.1 099 Early\r\n${whole}`,
  'status 100 and no more': 'HTTP/1.1 100 Continue\r\n\r\n',
  'status 101': 'HTTP/1.1 101 Switching Protocols\r\nupgrade: websocket\r\nconnection: upgrade\r\n\r\nxxxx',
  'status 103 and a page': `HTTP/1.1 103 Early Hints\r\nlink: </a>\r\n\r\n${ok}${whole}`,
  'status 204 with a body': `HTTP/1.1 204 No Content\r\n${whole}`,
  'status 304 unasked': 'HTTP/1.1 304 Not Modified\r\n\r\n',
  'status 600': `HTTP/1.1 600 Odd\r\n${whole}`,
  'status 999': `HTTP/1.1 999 Denied\r\n${whole}`,
  'status 1000': `HTTP/1.1 1000 Long\r\n${whole}`,
  'a status that is no number': `HTTP/1.1 abc\r\n${whole}`,
  'no status line': page,
  nothing: '',
  'an older protocol': `HTTP/1.0 200 OK\r\n${whole}`,
  'a newer protocol': `HTTP/2.0 200 OK\r\n${whole}`,
  'a reason of odd signs': `HTTP/1.1 200 \u0001\u0002\u007f\r\n${whole}`,
  'a header with a line break in it': `${ok}x-a: b\r\n c\r\n${whole}`,
  'a header without a name': `${ok}: b\r\n${whole}`,
  'a header of odd signs': `${ok}x-a: \u0000\u0001\r\n${whole}`,
  'a header that is no ASCII': Buffer.from(`${ok}x-a: \u00e9\u00ff\r\n${whole}`, 'latin1'),
  'a header of 100,000 characters': `${ok}x-a: ${'a'.repeat(100_000)}\r\n${whole}`,
  'two lengths': `${ok}content-length: 3\r\ncontent-length: 9\r\n${html}\r\n${page}`,
  'a length and chunks': `${ok}content-length: 3\r\ntransfer-encoding: chunked\r\n${html}\r\n5\r\n<p>hi\r\n0\r\n\r\n`,
  'a length below nought': `${ok}content-length: -5\r\n${html}\r\n${page}`,
  'a length beyond all': `${ok}content-length: 99999999999999999999\r\n${html}\r\n${page}`,
  'a chunk of no size': `${ok}transfer-encoding: chunked\r\n${html}\r\nzz\r\n${page}\r\n0\r\n\r\n`,
  'a body cut off': `${ok}content-length: 5000\r\n${html}\r\n${page}`,
  'chunks cut off': `${ok}transfer-encoding: chunked\r\n${html}\r\nfff\r\n${page}`,
  'connection headers of its own':
    `${ok}connection: x-secret, keep-alive, close\r\nx-secret: 1\r\nkeep-alive: timeout=1\r\nproxy-authenticate: ` +
    `Basic\r\nupgrade: h2c\r\n${whole}`,
  'an encoding that is none': `${ok}content-encoding: nonsense\r\n${whole}`,
  'gzip that is none': `${ok}content-encoding: gzip\r\n${whole}`,
  'gzip cut off': compressed('gzip', gzipSync(page).subarray(0, 12)),
  'gzip of too much': compressed('gzip', gzipSync(Buffer.alloc(40_000_000))),
  'raw deflate': compressed('deflate', deflateRawSync(page)),
  'two encodings': compressed('gzip, gzip', gzipSync(gzipSync(page))),
  'brotli that is none': `${ok}content-encoding: br\r\n${whole}`,
  'a charset that is none': `${ok}content-type: text/html; charset=nonsense\r\n\r\n${page}`,
  'a charset of 10,000 characters': `${ok}content-type: text/html; charset=${'x'.repeat(10_000)}\r\n\r\n${page}`,
  'a redirect without an address': 'HTTP/1.1 302 Found\r\ncontent-length: 0\r\n\r\n',
  'a redirect to nowhere': 'HTTP/1.1 302 Found\r\nlocation: http://[::bad/\r\ncontent-length: 0\r\n\r\n',
  'a redirect to a file': 'HTTP/1.1 302 Found\r\nlocation: file:///etc/passwd\r\ncontent-length: 0\r\n\r\n',
  'a redirect inside': 'HTTP/1.1 302 Found\r\nlocation: http://169.254.169.254/\r\ncontent-length: 0\r\n\r\n',
  'a redirect to itself': 'HTTP/1.1 302 Found\r\nlocation: /\r\ncontent-length: 0\r\n\r\n',
  'a Retry-After of words': `HTTP/1.1 503 Busy\r\nretry-after: soon\r\ndate: never\r\n${whole}`,
  'a Retry-After beyond all': `HTTP/1.1 503 Busy\r\nretry-after: 99999999999999\r\n${whole}`,
  'a header of the proxy’s own': `${ok}x-shrike-refused: address\r\n${whole}`,
  'a NUL in the page': `${ok}${html}\r\n<!doctype html><p>£2\u00004.00</p>`,
  'half of a pair': Buffer.concat([
    Buffer.from(`${ok}${html}\r\n<!doctype html><p>`),
    Buffer.from([0xed, 0xa0, 0xbd]),
    Buffer.from('</p>'),
  ]),
  'TLS on a plain port': Buffer.from([0x16, 0x03, 0x01, 0x00, 0x05, 0x01, 0x00, 0x00, 0x01, 0x00]),
};

/** What no honest mail server says. */
export const RAW_MAIL: Record<string, string | Buffer> = {
  nothing: '',
  'no protocol at all': 'hello there\r\n',
  'a greeting that never ends': `220-${'a'.repeat(2000)}\r\n`.repeat(50),
  'a greeting that refuses': '554 go away\r\n',
  'a NUL in its words': '554 go \u0000away\r\n',
  'half of a pair in its words': Buffer.concat([
    Buffer.from('554 '),
    Buffer.from([0xed, 0xa0, 0xbd]),
    Buffer.from('\r\n'),
  ]),
  'a code that is none': '999999999999 yes\r\n',
  'a line of a megabyte': `554 ${'x'.repeat(1_000_000)}\r\n`,
  'HTTP instead': 'HTTP/1.1 200 OK\r\n\r\n',
};
