import { data } from 'react-router';
import type { Moved, Topic } from '#server/db/base/signals';
import { CAME_FROM } from '#server/web/came-from';
import { services } from '../../../services.server';
import { asks, visitorContext, whoAsks } from '../../../session.server';
import { relatedNow, type RelatedNow } from '../../../parts/related.server';
import type { Route } from './+types/route';

const TOPIC = /^(watches|runs|outbox|(watch|source|draft):\d{1,15})$/;
const MOST_TOPICS = 8;
const MOST_FOLLOWERS = 500;
/** Views that one visitor may follow at once: nobody takes all the places there are. */
const MOST_OWN = 40;
/** Whoever signed out, or whose session ended, is told no more after so long. */
const ASKED_EVERY_MS = 10_000;
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
  const leave = take(visitorOf(context, request));
  const following = { topics: topics.slice(0, MOST_TOPICS), since: Number.isSafeInteger(since) ? since : -1 };
  const stream = streamOf(following, request, leave);
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream; charset=utf-8', 'x-accel-buffering': 'no' },
  });
}

const views = new Map<string, number>();

/** Who follows: an account, or an address where nobody signs in. */
const visitorOf = (context: Route.LoaderArgs['context'], request: Request): string =>
  String(context.get(visitorContext).actor.account ?? request.headers.get(CAME_FROM));

/** Takes a place of a visitor's own; what gives it back. */
function take(visitor: string): () => void {
  const own = views.get(visitor) ?? 0;
  if (own >= MOST_OWN) throw data('You follow too many views at once: close some of them.', { status: 503 });
  views.set(visitor, own + 1);
  return () => {
    const left = (views.get(visitor) ?? 1) - 1;
    if (left === 0) views.delete(visitor);
    else views.set(visitor, left);
  };
}

function streamOf(
  { topics, since }: { topics: Topic[]; since: number },
  request: Request,
  giveBack: () => void,
): ReadableStream<Uint8Array> {
  const { signal } = request;
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
      const asked = setInterval(() => void hasLeft(request).then((left) => (left ? end() : undefined)), ASKED_EVERY_MS);
      over.signal.addEventListener('abort', () => {
        leave();
        giveBack();
        clearInterval(asked);
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

/** Whether who asked is nobody any more; where that cannot be found out she is taken to be still there. */
const hasLeft = (request: Request): Promise<boolean> =>
  whoAsks(request).then(
    (visitor) => visitor === null,
    () => false,
  );

const movedEvent = (at: number, moved: Moved) => `id: ${at}\nevent: moved\ndata: ${JSON.stringify(moved)}\n\n`;

/** Says what stands beside the view, where that is known, and in any case that both ends are still there. */
async function tellBeside(write: (event: string) => void): Promise<void> {
  const beside: RelatedNow | null = await relatedNow().catch(() => null);
  write(beside === null ? 'event: here\ndata: \n\n' : `event: beside\ndata: ${JSON.stringify(beside)}\n\n`);
}
