import { createContext, useContext, useEffect, useRef, useState } from 'react';
import { useNavigation, useRevalidator } from 'react-router';
import type { Moved, Topic } from '#server/db/base/signals';
import type { RelatedNow } from './related.server';

const AGAIN_AFTER_MS = 15_000;
/**
 * The server says something every five seconds; whoever hears nothing for so long is cut off, whatever the connection
 * seems to be.
 */
const SILENT_MS = 20_000;

/**
 * Follows what the views on screen show, over one connection, as long as the window is in sight: a browser has few
 * connections, and nobody looks at what is hidden. When it comes back into sight, what moved meanwhile is told first.
 */
export class Following {
  readonly #views = new Map<object, { topics: readonly Topic[]; onMoved: () => void }>();
  #source: EventSource | null = null;
  #followed = '';
  #loadedAt: number;
  #opening: ReturnType<typeof setTimeout> | undefined;
  #silent: ReturnType<typeof setTimeout> | undefined;

  constructor(
    loadedAt: number,
    private readonly onBeside: (beside: RelatedNow) => void,
  ) {
    this.#loadedAt = loadedAt;
    document.addEventListener('visibilitychange', this.#seen);
  }

  /** The views were loaded when the count of all that moved was at this place. */
  loaded(at: number): void {
    this.#loadedAt = at;
  }

  /** Calls `onMoved` whenever one of the topics moved. Returns what ends it. */
  follow(topics: readonly Topic[], onMoved: () => void): () => void {
    const view = {};
    this.#views.set(view, { topics, onMoved });
    this.#open();
    return () => {
      this.#views.delete(view);
      this.#open();
    };
  }

  close(): void {
    document.removeEventListener('visibilitychange', this.#seen);
    clearTimeout(this.#opening);
    this.#leave();
  }

  readonly #seen = () => this.#open();

  /** Opens, closes or changes the connection, once all views have said what they follow. */
  #open(afterMs = 0): void {
    clearTimeout(this.#opening);
    this.#opening = setTimeout(() => this.#connect(), afterMs);
  }

  #connect(): void {
    const topics = [...new Set([...this.#views.values()].flatMap((view) => view.topics))].sort();
    const followed = document.visibilityState === 'visible' ? topics.join(' ') : null;
    if (this.#source !== null && followed === this.#followed) return;
    this.#leave();
    if (followed === null) return;
    this.#followed = followed;
    const source = new EventSource(
      `/live?${new URLSearchParams([['since', String(this.#loadedAt)], ...topics.map((topic) => ['topic', topic])]).toString()}`,
    );
    source.addEventListener('moved', ({ data }: MessageEvent<string>) => {
      this.#heard();
      this.#tell(JSON.parse(data) as Moved);
    });
    source.addEventListener('beside', ({ data }: MessageEvent<string>) => {
      this.#heard();
      this.onBeside(JSON.parse(data) as RelatedNow);
    });
    source.addEventListener('here', () => this.#heard());
    source.addEventListener('error', () => this.#failed(source));
    this.#source = source;
    this.#heard();
  }

  #heard(): void {
    clearTimeout(this.#silent);
    this.#silent = setTimeout(() => this.#lose(0), SILENT_MS);
  }

  #leave(): void {
    clearTimeout(this.#silent);
    this.#source?.close();
    this.#source = null;
  }

  /** What moved meanwhile was not heard. */
  #lose(againAfterMs: number): void {
    this.#leave();
    this.#tell('all');
    this.#open(againAfterMs);
  }

  #tell(moved: Moved): void {
    for (const { topics, onMoved } of this.#views.values())
      if (moved === 'all' || topics.some((topic) => moved.includes(topic))) onMoved();
  }

  /** A browser connects again by itself, unless it was refused. */
  #failed(source: EventSource): void {
    if (source !== this.#source || source.readyState !== EventSource.CLOSED) return;
    this.#lose(AGAIN_AFTER_MS);
  }
}

/** Set by the shell, in a browser. */
export const FollowingContext = createContext<Following | null>(null);

/**
 * Keeps a view current while it is on screen: loads it again when a topic that it follows has moved, at most once in so
 * many milliseconds. Never while a navigation is under way, which a load would call off.
 */
export function useLive(topics: readonly Topic[], atMostEveryMs: number): void {
  const following = useContext(FollowingContext);
  const { revalidate, state } = useRevalidator();
  const resting = useNavigation().state === 'idle' && state === 'idle';
  const [moved, setMoved] = useState(false);
  const loadedAt = useRef(0);
  const followed = topics.join(' ');
  useEffect(() => following?.follow(followed.split(' ') as Topic[], () => setMoved(true)), [following, followed]);
  useEffect(() => {
    if (!moved || !resting) return;
    const load = () => {
      loadedAt.current = Date.now();
      setMoved(false);
      void revalidate();
    };
    const timer = setTimeout(load, Math.max(0, loadedAt.current + atMostEveryMs - Date.now()));
    return () => clearTimeout(timer);
  }, [moved, resting, revalidate, atMostEveryMs]);
}

const MOVED_EVERY_MS = 5_000;
const RAN_EVERY_MS = 30_000;

/**
 * Keeps a view of many watches current: soon where one of them moved, and in a while where they were only looked at.
 */
export function useLiveWatches(): void {
  useLive(['watches'], MOVED_EVERY_MS);
  useLive(['runs'], RAN_EVERY_MS);
}
