/** The middle one of some figures. */
export const median = (figures: number[]) => [...figures].sort((a, b) => a - b)[Math.floor(figures.length / 2)] ?? 0;

export const say = (line: string) => process.stdout.write(`${line}\n`);

/** A ratio with how far it ranged: `0.81 (0.77 to 0.86)`. */
export function spread(ratios: number[]): string {
  return (
    `${median(ratios).toFixed(2)} (${Math.min(...ratios).toFixed(2)} to ${Math.max(...ratios).toFixed(2)} over ` +
    `${ratios.length} rounds)`
  );
}
