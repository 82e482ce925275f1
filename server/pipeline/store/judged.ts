import type { SeriesId, WatchId } from '#core/id';
import type { GoodReading, WatchOutcome } from '#core/judge/known';
import type { RunWatch } from '../context';

/** A watch with what came of judging it. */
export interface JudgedWatch {
  watch: RunWatch;
  outcome: WatchOutcome;
}

/** A reading that is to be stored, with the number of its series. */
export interface StoredReading {
  watch: RunWatch;
  reading: GoodReading;
  seriesId: SeriesId;
}

/** What of a watch tells one of its series from another. */
export const seriesName = (watch: WatchId, identity: string, field: string): string => `${watch} ${field} ${identity}`;
