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
  | { reason: 'sealed' }
  | { reason: 'step'; number: number; said: string; detail: string }
  | { reason: 'not rendered'; detail: string }
  | { reason: 'too large'; mostBytes: number }
  | { reason: 'too many redirects'; most: number }
  | { reason: 'bad certificate'; detail: string }
  | { reason: 'empty' };

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

/** A fetch problem as plain sentences: what happened, and what to do where there is something to do. */
export function describeFetchProblem(problem: FetchProblem): string {
  switch (problem.reason) {
    case 'bad address':
      return 'This is not a web address. It should begin with http:// or https://.';
    case 'unknown host':
      return `No site answers to the name ${problem.host}. Check the spelling.`;
    case 'private address':
      return `${problem.host} is an address inside a private network; Shrike only fetches from the public web.`;
    case 'no answer':
      return `The site did not answer (${problem.detail}).`;
    case 'timed out':
      return `The site took longer than ${problem.seconds} s to answer.`;
    case 'status':
      return describeStatus(problem);
    case 'not text':
      return `This is not a page or data but ${problem.contentType || 'something that is no text'}. Shrike reads pages, tables, feeds and data in text.`;
    case 'robots':
      return `${problem.host} asks programs not to fetch this address (its robots rules), and Shrike heeds that. The host’s settings can say otherwise, if you may.`;
    case 'sealed':
      return 'The secret for signing in cannot be opened: it was sealed under another key. Enter it again.';
    case 'step':
      return `Step ${problem.number} could not be taken (${problem.said}): ${problem.detail}`;
    case 'not rendered':
      return `The page could not be rendered: ${problem.detail}`;
    case 'too large':
      return `The page is larger than ${Math.round(problem.mostBytes / 1_000_000)} MB and was not read.`;
    case 'too many redirects':
      return `The address leads on more than ${problem.most} times and never arrives.`;
    case 'bad certificate':
      return `The site’s certificate cannot be trusted (${problem.detail}).`;
    case 'empty':
      return 'The page came back empty.';
  }
}
