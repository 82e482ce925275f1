/**
 * Round heights for a scale that holds all from the least to the most, with a little room; what is never negative stays
 * so.
 */
export function niceTicks(least: number, most: number): { ticks: number[]; domain: [number, number] } {
  const span = most - least || Math.max(Math.abs(most) * 0.1, 1);
  const rough = span / 2;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 2.5, 5, 10].map((each) => each * power).find((each) => each >= rough) ?? rough;
  const first = Math.floor((least - span * 0.08) / step) * step;
  const bottom = least >= 0 ? Math.max(0, first) : first;
  const count = Math.ceil((most + span * 0.08 - bottom) / step);
  const ticks = Array.from({ length: count + 1 }, (_, at) => Number((bottom + at * step).toPrecision(12)));
  return { ticks, domain: [ticks[0] ?? least, ticks.at(-1) ?? most] };
}
