import { data } from 'react-router';
import type { Moved, Topic } from '#server/db/base/signals';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { relatedNow, type RelatedNow } from '../../../parts/related.server';
import type { Route } from './+types/route';

const TOPIC = /^(watches|runs|outbox|(watch|source|draft):\d{1,15})$/;
const MOST_TOPICS = 8;
const MOST_FOLLOWERS = 500;
/** After this long whoever follows asks anew, and is asked anew who she is. */
const LONGEST_MS = 15 * 60_000;
const BESIDE_EVERY_MS = 5_000;
/** Events that may wait for somebody who takes none; after that she asks anew. */
const MOST_WAITING = 100;

/** Tells a view what moves that it follows, and what stands beside it, as server-sent events (WHATWG HTML, 9.2). */
export function loader({ request, context }: Route.LoaderArgs): Response {
  asks(context, 'see', { kind: 'briefing' });
  const { followers } = services();
  if (followers.size >= MOST_FOLLOWERS) throw data('Too many views are followed at the moment.', { status: 503 });
  const asked = new URL(request.url).searchParams;
  const topics = asked.getAll('topic').filter((topic): topic is Topic => TOPIC.test(topic));
  const since = Number(request.headers.get('last-event-id') ?? asked.get('since') ?? NaN);
  const stream = streamOf(topics.slice(0, MOST_TOPICS), Number.isSafeInteger(since) ? since : -1, request.signal);
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream; charset=utf-8', 'x-accel-buffering': 'no' },
  });
}

function streamOf(topics: Topic[], since: number, signal: AbortSignal): ReadableStream<Uint8Array> {
  const over = new AbortController();
  const encoder = new TextEncoder();
  return new ReadableStream<Uint8Array>({
    start(controller) {
      const end = () => {
        if (over.signal.aborted) return;
        over.abort();
        controller.close();
      };
      const write = (event: string) => {
        if (over.signal.aborted) return;
        if ((controller.desiredSize ?? 0) < -MOST_WAITING) end();
        else controller.enqueue(encoder.encode(event));
      };
      const leave = services().followers.follow(topics, since, (at, moved) => write(movedEvent(at, moved)));
      const beside = setInterval(() => void tellBeside(write), BESIDE_EVERY_MS);
      const longest = setTimeout(end, LONGEST_MS);
      over.signal.addEventListener('abort', () => {
        leave();
        clearInterval(beside);
        clearTimeout(longest);
      });
      signal.addEventListener('abort', end, { signal: over.signal });
      if (signal.aborted) end();
    },
    // Nobody takes it any more, and it is closed already.
    cancel: () => over.abort(),
  });
}

const movedEvent = (at: number, moved: Moved) => `id: ${at}\nevent: moved\ndata: ${JSON.stringify(moved)}\n\n`;

/** Says what stands beside the view, where that is known, and in any case that both ends are still there. */
async function tellBeside(write: (event: string) => void): Promise<void> {
  const beside: RelatedNow | null = await relatedNow().catch(() => null);
  write(beside === null ? 'event: here\ndata: \n\n' : `event: beside\ndata: ${JSON.stringify(beside)}\n\n`);
}
