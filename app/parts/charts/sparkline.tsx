/** A point of a small series: a moment and a number for its height; exactness does not matter at this size. */
export interface SparkPoint {
  at: number;
  height: number;
}

/** How large a small series is drawn, and up to which moment. */
interface Size {
  width: number;
  height: number;
  until: number;
  limit?: number | null;
}

/** How large a small series is in a row of a list. */
export const ROW_SPARK = { width: 110, height: 20 };

/** A small series as it is drawn: its line, and how high it ends and its limit stands. */
export interface SparkShape {
  path: string;
  end: number;
  limit: number | null;
}

/** The line of a small series, drawn to its own range; null where it has no point. */
export function sparkShape(points: SparkPoint[], { width, height, until, limit = null }: Size): SparkShape | null {
  const [first] = points;
  const last = points.at(-1);
  if (first === undefined || last === undefined) return null;
  const heights = [...points.map((point) => point.height), ...(limit === null ? [] : [limit])];
  const [least, most] = [Math.min(...heights), Math.max(...heights)];
  const x = (at: number) => (until === first.at ? width : ((at - first.at) / (until - first.at)) * (width - 4));
  const y = (value: number) =>
    Math.round((most === least ? height / 2 : 3 + (1 - (value - least) / (most - least)) * (height - 6)) * 10) / 10;
  const steps = points.map((point, index) =>
    index === 0 ? `M0 ${y(point.height)}` : `H${x(point.at).toFixed(1)}V${y(point.height)}`,
  );
  return { path: `${steps.join('')}H${width - 4}`, end: y(last.height), limit: limit === null ? null : y(limit) };
}

/** A step line without axes, with its last point marked. */
export function SparkLine({
  shape,
  width,
  height,
  label,
}: {
  shape: SparkShape;
  width: number;
  height: number;
  label: string;
}) {
  const { path, end, limit } = shape;
  return (
    <svg
      role="img"
      aria-label={label}
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      className="spark"
    >
      {limit === null ? null : <line x1="0" x2={width - 4} y1={limit} y2={limit} />}
      <path d={path} />
      <circle cx={width - 4} cy={end} r="2.6" />
    </svg>
  );
}

/** A small series from its points, with an optional limit. */
export function Sparkline({ points, label, ...size }: { points: SparkPoint[]; label: string } & Size) {
  const shape = sparkShape(points, size);
  return shape === null ? null : <SparkLine shape={shape} width={size.width} height={size.height} label={label} />;
}
