import type { Instant } from '../when/interval';

/** The course of a series as a picture shows it: exactness does not matter at this size. */
export interface Course {
  at: readonly Instant[];
  height: readonly number[];
}

/** So many days before an alert, or the end of an edition's stretch, its picture begins. */
export const DRAWN_DAYS = 30;

/** How large a course stands in a mail, in px. */
export const ALERT_SIZE = { width: 632, height: 72 };
export const MOVE_SIZE = { width: 96, height: 20 };
/** How large a page stands in one, before and after. */
export const PAGE_SIZE = { width: 308, height: 192 };
/** Pictures are made so many times finer than they are shown. */
export const FINER = 2;

interface Frame {
  from: Instant;
  until: Instant;
  width: number;
  height: number;
  /** A rule across it, in the series' own unit. */
  limit?: number | null;
}

/** Ink that is seen on paper and in the dark alike, since a picture cannot tell where it stands. */
const INK = '#857C70';
export const ACCENT = '#B4552F';
const MARGIN = 4;

/**
 * A series as a small picture in SVG: what it was in steps, from the first moment or where it begins to the last, its
 * last value marked, its limit a dashed rule. Heights are scaled to what is shown; a series that stood still runs
 * through the middle. Null where fewer than two moments are known.
 */
export function drawSeries(
  { at, height: heights }: Course,
  { from, until, width, height, limit = null }: Frame,
): string | null {
  const points = at.flatMap((moment, place) => {
    const value = heights[place];
    return value === undefined || !Number.isFinite(value)
      ? []
      : [{ moment: Math.min(Math.max(moment, from), until), value }];
  });
  const [begins, last] = [points[0], points.at(-1)];
  if (points.length < 2 || begins === undefined || last === undefined || until <= begins.moment) return null;
  const shown = [...points.map(({ value }) => value), ...(limit === null ? [] : [limit])];
  const [low, high] = [Math.min(...shown), Math.max(...shown)];
  // What it came to runs on a little, so that a last step is seen as one.
  const [end, course] = [width - MARGIN, width * (1 - RUNS_ON)];
  const x = (moment: Instant) => round(((moment - begins.moment) / (until - begins.moment)) * course);
  const y = (value: number) =>
    round(high === low ? height / 2 : MARGIN + ((high - value) / (high - low)) * (height - 2 * MARGIN));
  const steps = points.slice(1).map(({ moment, value }) => `H${x(moment)}V${y(value)}`);
  const path = `M0 ${y(begins.value)}${steps.join('')}H${end}`;
  const rule =
    limit === null ? '' : `<path d="M0 ${y(limit)}H${width}" stroke="${INK}" stroke-width="1" stroke-dasharray="3 3"/>`;
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" ` +
    `fill="none">${rule}<path d="${path}" stroke="${INK}" stroke-width="1.5" stroke-linejoin="round"/><circle ` +
    `cx="${end}" cy="${y(last.value)}" r="2.5" fill="${ACCENT}"/></svg>`
  );
}

/** The share of a picture that is kept for what a series came to. */
const RUNS_ON = 0.1;

const round = (size: number): number => Math.round(size * 10) / 10;
