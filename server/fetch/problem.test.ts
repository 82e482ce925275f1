import { describe, expect, it } from 'vitest';
import { causeOfFetch } from '#core/tell/failure';
import { describeFetchProblem, type FetchProblem } from './problem';

const PROBLEMS: FetchProblem[] = [
  { reason: 'bad address' },
  { reason: 'unknown host', host: 'shop.example' },
  { reason: 'private address', host: 'shop.example' },
  { reason: 'no answer', detail: 'connection refused' },
  { reason: 'timed out', seconds: 20 },
  { reason: 'status', status: 404 },
  { reason: 'status', status: 410 },
  { reason: 'status', status: 429, retryAfterSeconds: 120 },
  { reason: 'status', status: 503 },
  { reason: 'not text', contentType: 'application/pdf' },
  { reason: 'robots', host: 'shop.example' },
  { reason: 'sealed' },
  { reason: 'nothing posted' },
  { reason: 'step', number: 2, said: 'click “On”', detail: 'it was not there within 8 seconds.' },
  { reason: 'not rendered', detail: 'the browser failed.' },
  { reason: 'too large', mostBytes: 5_000_000 },
  { reason: 'too many redirects', most: 5 },
  { reason: 'not followed', pages: 2, detail: 'the next one is on another host, other.example' },
  { reason: 'no handshake', why: 'not encrypted' },
  { reason: 'no handshake', why: 'outdated' },
  { reason: 'no handshake', why: 'another name' },
  { reason: 'no handshake', why: 'wants a certificate' },
  { reason: 'no handshake', why: 'broken off' },
  { reason: 'bad certificate', detail: 'self signed', host: 'shop.example', fingerprint: 'AB:CD' },
  { reason: 'not kept', detail: 'a sum that has no end' },
  { reason: 'empty' },
];

describe('why a fetch brought no page', () => {
  it.each(PROBLEMS.map((problem) => [JSON.stringify(problem), problem] as const))(
    '%s is told in whole sentences of its own',
    (_, problem) => {
      const said = describeFetchProblem(problem);
      expect(said).toMatch(/^[A-Z]|^shop\.example/);
      expect(said).toMatch(/\.$/);
      expect(said).not.toMatch(/undefined|null|\[object/);
      expect(PROBLEMS.filter((each) => describeFetchProblem(each) === said)).toHaveLength(1);
    },
  );

  it('says for how long a site wants to be left alone, where it says so itself', () => {
    expect(describeFetchProblem({ reason: 'status', status: 429, retryAfterSeconds: 120 })).toContain(
      'left alone for 120 s',
    );
    expect(describeFetchProblem({ reason: 'status', status: 429 })).not.toContain('left alone');
  });

  it('leads to the certificate’s decision only where there is a certificate to decide on', () => {
    expect(describeFetchProblem({ reason: 'bad certificate', detail: 'expired', fingerprint: 'AB' })).toContain(
      'under Hosts',
    );
    expect(describeFetchProblem({ reason: 'bad certificate', detail: 'expired' })).not.toContain('under Hosts');
  });

  it.each<[FetchProblem, string]>([
    [{ reason: 'robots', host: 'shop.example' }, 'refused us'],
    [{ reason: 'step', number: 1, said: '', detail: '' }, 'something in the way'],
    [{ reason: 'not followed', pages: 1, detail: '' }, 'not readable'],
    [{ reason: 'not kept', detail: '' }, 'not readable'],
    [{ reason: 'timed out', seconds: 20 }, 'not answering'],
  ])('%o is told as its cause', ({ reason }, cause) => {
    expect(causeOfFetch(reason, null)).toBe(cause);
  });
});
