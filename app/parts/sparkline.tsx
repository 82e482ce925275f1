/** A point of a small series: a moment and a number for its height; exactness does not matter at this size. */
export interface SparkPoint {
  at: number;
  height: number;
}

/** A step line without axes, drawn to its own range, with an optional limit and its last point marked. */
export function Sparkline({
  points,
  limit,
  width,
  height,
  until,
  label,
}: {
  points: SparkPoint[];
  limit?: number | null;
  width: number;
  height: number;
  until: number;
  label: string;
}) {
  const [first] = points;
  if (first === undefined) return null;
  const heights = [...points.map((point) => point.height), ...(limit == null ? [] : [limit])];
  const [least, most] = [Math.min(...heights), Math.max(...heights)];
  const x = (at: number) => (until === first.at ? width : ((at - first.at) / (until - first.at)) * (width - 4));
  const y = (value: number) => (most === least ? height / 2 : 3 + (1 - (value - least) / (most - least)) * (height - 6));
  const path = points
    .map((point, index) => (index === 0 ? `M0 ${y(point.height)}` : `H${x(point.at).toFixed(1)} V${y(point.height).toFixed(1)}`))
    .join(' ');
  const last = points.at(-1) ?? first;
  return (
    <svg role="img" aria-label={label} width={width} height={height} viewBox={`0 0 ${width} ${height}`} className="block max-w-full overflow-visible">
      {limit == null ? null : <line x1="0" x2={width - 4} y1={y(limit)} y2={y(limit)} stroke="var(--third)" strokeDasharray="1.5 3" />}
      <path d={`${path} H${width - 4}`} fill="none" stroke="var(--ink)" strokeWidth="1.4" />
      <circle cx={width - 4} cy={y(last.height)} r="2.6" fill="var(--chestnut)" />
    </svg>
  );
}
