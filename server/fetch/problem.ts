/** Why a fetch brought no page. */
export type FetchProblem =
  | { reason: 'bad address' }
  | { reason: 'unknown host'; host: string }
  | { reason: 'private address'; host: string }
  | { reason: 'no answer'; detail: string }
  | { reason: 'timed out'; seconds: number }
  | { reason: 'status'; status: number; retryAfterSeconds?: number | null }
  | { reason: 'not text'; contentType: string }
  | { reason: 'robots'; host: string }
  | { reason: 'robots unread'; detail: string }
  | { reason: 'sealed' }
  | { reason: 'nothing posted' }
  | { reason: 'step'; number: number; said: string; detail: string }
  | { reason: 'not rendered'; detail: string }
  | { reason: 'too large'; mostBytes: number }
  | { reason: 'too many redirects'; most: number }
  | { reason: 'led elsewhere'; host: string }
  | { reason: 'ended the process' }
  | { reason: 'not followed'; pages: number; detail: string }
  | { reason: 'no handshake'; why: Handshake }
  | { reason: 'bad certificate'; detail: string; host?: string; fingerprint?: string }
  | { reason: 'not kept'; detail: string; message?: number }
  | { reason: 'empty' };

/**
 * Why no encrypted connection came about: the site speaks http alone, only outdated TLS, does not know the name, or
 * wants a certificate of ours.
 */
export type Handshake = 'not encrypted' | 'outdated' | 'another name' | 'wants a certificate' | 'broken off';

const HANDSHAKES: Record<Handshake, string> = {
  'not encrypted':
    'The site answers here without encryption: an address that begins with https:// cannot be had. Try it with ' +
    'http://.',
  outdated:
    'The site offers only outdated encryption (before TLS 1.2), which Shrike does not use. Whoever runs it has ' +
    'to renew it.',
  'another name': 'The site does not answer to this name over https. Check the spelling, with and without “www.”.',
  'wants a certificate': 'The site asks for a certificate of ours before it answers, and Shrike has none.',
  'broken off':
    'The site broke off while encryption was being agreed on. Try once more, or with http:// if it offers that.',
};

/** What OpenSSL and the system say of a certificate that is not trusted, in words. */
const TRUSTED_UNDER = ' If you know it, it can be trusted by its fingerprint under Hosts.';

const CERTIFICATES: Record<string, string> = {
  'cert has expired': 'it has expired',
  'cert not yet valid': 'it is not valid yet',
  'depth zero self signed cert': 'the site made it itself',
  'self signed cert in chain': 'nobody known vouches for it',
  'unable to verify leaf signature': 'nobody known vouches for it',
  'unable to get issuer cert': 'nobody known vouches for it',
  'unable to get issuer cert locally': 'nobody known vouches for it',
  'cert revoked': 'it was revoked',
  'err tls cert altname invalid': 'it is made out to another name',
  'hostname mismatch': 'it is made out to another name',
};

const STATUSES: Record<number, string> = {
  401: 'The site asks for a sign-in (401).',
  403: 'The site refuses us (403).',
  404: 'The page is not there (404).',
  410: 'The page was retired for good (410).',
  429: 'The site asks us to slow down (429).',
};

function describeStatus({ status, retryAfterSeconds }: { status: number; retryAfterSeconds?: number | null }): string {
  const said = STATUSES[status] ?? `The site answered with an error (${status}).`;
  return retryAfterSeconds == null ? said : `${said} It is left alone for ${retryAfterSeconds} s, as it wishes.`;
}

type Sayings = { [Reason in FetchProblem['reason']]: (problem: Extract<FetchProblem, { reason: Reason }>) => string };

const SAYINGS: Sayings = {
  'bad address': () => 'This is not a web address. It should begin with http:// or https://.',
  'unknown host': ({ host }) => `No site answers to the name ${host}. Check the spelling.`,
  'private address': ({ host }) =>
    `${host} is an address inside a private network; Shrike only fetches from the public web.`,
  'no answer': ({ detail }) => `The site did not answer (${detail}).`,
  'timed out': ({ seconds }) => `The site took longer than ${seconds} s to answer.`,
  status: describeStatus,
  'not text': ({ contentType }) =>
    `This is not a page or data but ${contentType || 'something that is no text'}. Shrike reads pages, tables, ` +
    'feeds and data in text.',
  robots: ({ host }) =>
    `${host} asks programs not to fetch this address (its robots rules), and Shrike heeds that. The host’s ` +
    'settings can say otherwise, if you may.',
  'robots unread': ({ detail }) => `What the site says to programs cannot be made out: ${detail}`,
  sealed: () => 'The secret for signing in cannot be opened: it was sealed under another key. Enter it again.',
  'nothing posted': () => 'Nothing has been posted to this address yet.',
  step: ({ number, said, detail }) => `Step ${number} could not be taken (${said}): ${detail}`,
  'not rendered': ({ detail }) => `The page could not be rendered: ${detail}`,
  'too large': ({ mostBytes }) => `The page is larger than ${Math.round(mostBytes / 1_000_000)} MB and was not read.`,
  'too many redirects': ({ most }) => `The address leads on more than ${most} times and never arrives.`,
  'led elsewhere': ({ host }) =>
    `The site leads what is posted on to ${host || 'nowhere'}. What was entered for one site is not sent to ` +
    'another: enter that address instead, if you trust it.',
  'ended the process': () =>
    'Twice now the worker came to an end while it was at this source, so it is set aside, and tried once a day. ' +
    'The log of the worker says more.',
  'not followed': ({ pages, detail }) =>
    `Of the listing only ${pages === 1 ? 'the first page' : `the first ${pages} pages`} could be had: ${detail}. ` +
    'Follow fewer pages, or watch the rest by itself.',
  'no handshake': ({ why }) => HANDSHAKES[why],
  'bad certificate': ({ detail, fingerprint }) =>
    'The site’s certificate cannot be trusted: ' +
    `${CERTIFICATES[detail] ?? detail}.${fingerprint === undefined ? '' : TRUSTED_UNDER}`,
  'not kept': ({ detail }) =>
    `What came could not be kept (${detail}). The fault is Shrike’s own: tell whoever runs it; the log of the ` +
    'worker says more.',
  empty: () => 'The page came back empty.',
};

/** A fetch problem as plain sentences: what happened, and what to do where there is something to do. */
export function describeFetchProblem(problem: FetchProblem): string {
  return (SAYINGS[problem.reason] as (problem: FetchProblem) => string)(problem);
}
