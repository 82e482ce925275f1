import { useMemo, useRef, useState, type KeyboardEvent, type MouseEvent } from 'react';
import type { Box } from '#core/read/inspect/wall';

/** What pointing at the page does. */
export interface Pointing {
  onPick: (n: number, meant: Meant) => void;
  onWider: () => void;
  onNarrower: () => void;
}

/** An element that was taken, as what it is read. */
export interface Marked {
  n: number;
  label: string;
}

/** Without `onPick` the page is only shown. */
interface PagePictureProps extends Partial<Pointing> {
  image: string;
  width: number;
  height: number;
  boxes: Box[];
  /** The numbers of the elements that are picked. */
  picked: number[];
  /** Those that are said not to belong to them. */
  left: number[];
  taken: Marked[];
  label: string;
}

/** What a pick says: this alone, this as well, or not this. */
export type Meant = 'this' | 'also this' | 'not this';

/** By mouse the keys held say what is meant. */
const meantBy = (event: MouseEvent | KeyboardEvent): Meant =>
  event.altKey ? 'not this' : event.shiftKey ? 'also this' : 'this';

const percent = (part: number, whole: number) => `${(part / whole) * 100}%`;

/** The smallest box at a point. */
function boxAt(boxes: Box[], x: number, y: number): Box | null {
  let best: Box | null = null;
  for (const box of boxes) {
    if (x < box.x || y < box.y || x > box.x + box.w || y > box.y + box.h) continue;
    if (best === null || box.w * box.h <= best.w * best.h) best = box;
  }
  return best;
}

/**
 * A page as the browser showed it. Hovering outlines an element, a click picks it, with Shift it says 'also this', with
 * Alt 'not this'. By keyboard: arrows walk from element to element, Enter picks, + and - say the same, [ and ] make the
 * pick wider and narrower.
 */
export function PagePicture({
  image,
  width,
  height,
  boxes,
  picked,
  left,
  taken,
  label,
  onPick,
  onWider,
  onNarrower,
}: PagePictureProps) {
  const frame = useRef<HTMLDivElement>(null);
  const [hovered, setHovered] = useState<Box | null>(null);
  const leaves = useMemo(() => readingOrder(boxes), [boxes]);
  const window = useMemo(() => contentOf(leaves, width), [leaves, width]);
  const at = (event: MouseEvent) => {
    const bounds = frame.current?.getBoundingClientRect();
    if (bounds === undefined) return null;
    return boxAt(
      boxes,
      ((event.clientX - bounds.left) / bounds.width) * width,
      ((event.clientY - bounds.top) / bounds.height) * height,
    );
  };
  const onKey = (event: KeyboardEvent) => {
    if (onPick === undefined) return;
    const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    if (step !== undefined) {
      event.preventDefault();
      const from = hovered === null ? -1 : leaves.findIndex((box) => box.n === hovered.n);
      setHovered(leaves[Math.max(0, Math.min(leaves.length - 1, from + step))] ?? null);
    } else if (['Enter', '+', '-'].includes(event.key) && hovered !== null) {
      event.preventDefault();
      onPick?.(hovered.n, event.key === '+' ? 'also this' : event.key === '-' ? 'not this' : meantBy(event));
    } else if (event.key === '[') onWider?.();
    else if (event.key === ']') onNarrower?.();
  };
  return (
    <div className="max-h-[max(320px,calc(100vh-210px))] overflow-x-hidden overflow-y-auto border border-rule bg-white">
      {}
      <div
        ref={frame}
        role={onPick === undefined ? 'img' : 'application'}
        aria-label={label}

        tabIndex={0}
        className={`relative ${onPick === undefined ? '' : 'cursor-crosshair'}`}
        style={{ width: percent(width, window.w), marginLeft: `-${percent(window.x, window.w)}` }}
        data-picture
        onMouseMove={onPick === undefined ? undefined : (event) => setHovered(at(event))}
        onMouseLeave={() => setHovered(null)}
        onClick={(event) => {
          const box = at(event);
          if (box !== null) onPick?.(box.n, meantBy(event));
        }}
        onKeyDown={onKey}
      >
        <img
          src={image}
          alt=""
          width={width}
          height={height}
          className={`block h-auto w-full ${picked.length > 0 ? 'opacity-60' : ''}`}
          draggable={false}
        />
        {hovered === null ? null : <Outline box={hovered} width={width} height={height} tone="border-ink/70 border" />}
        {taken.map(({ n, label: what }) => {
          const box = boxes.find((each) => each.n === n);
          return box === undefined || picked.includes(n) ? null : (
            <Taken key={`taken ${n}`} box={box} width={width} height={height} what={what} />
          );
        })}
        {left.map((n) => {
          const box = boxes.find((each) => each.n === n);
          return box === undefined ? null : (
            <Outline key={`not ${n}`} box={box} width={width} height={height} tone="border border-dashed border-ink" />
          );
        })}
        {picked.map((n) => {
          const box = boxes.find((each) => each.n === n);
          return box === undefined ? null : <Window key={n} box={box} width={width} height={height} image={image} />;
        })}
      </div>
    </div>
  );
}

const LEAST_SHOWN = 0.5;
const MARGIN = 24;

/** The part of the page's width that its content takes, so that it is shown no smaller than it must be. */
function contentOf(leaves: Box[], width: number): { x: number; w: number } {
  const content = leaves.filter((box) => box.w < 0.8 * width);
  if (content.length === 0) return { x: 0, w: width };
  // What goes across the page begins at its left edge, like a site's name: that stays to be seen.
  const across = leaves.some((box) => box.w >= 0.8 * width);
  const left = across ? 0 : Math.max(0, Math.min(...content.map((box) => box.x)) - MARGIN);
  const right = Math.min(width, Math.max(...content.map((box) => box.x + box.w)) + MARGIN);
  const w = Math.max(right - left, LEAST_SHOWN * width);
  return { x: Math.max(0, Math.min(left, width - w)), w };
}

/** Elements without others inside them, as a reader meets them. */
function readingOrder(boxes: Box[]): Box[] {
  const inside = (outer: Box, inner: Box) =>
    outer !== inner &&
    inner.n > outer.n &&
    inner.x >= outer.x &&
    inner.y >= outer.y &&
    inner.x + inner.w <= outer.x + outer.w &&
    inner.y + inner.h <= outer.y + outer.h;
  return boxes.filter((box, at) => !boxes.slice(at + 1, at + 60).some((other) => inside(box, other)));
}

function Outline({ box, width, height, tone }: { box: Box; width: number; height: number; tone: string }) {
  return (
    <span
      aria-hidden
      className={`pointer-events-none absolute ${tone}`}
      style={{
        left: percent(box.x, width),
        top: percent(box.y, height),
        width: percent(box.w, width),
        height: percent(box.h, height),
      }}
    />
  );
}

/** What was taken, underlined and named. */
function Taken({ box, width, height, what }: { box: Box; width: number; height: number; what: string }) {
  return (
    <span
      aria-hidden
      data-taken-mark
      className="pointer-events-none absolute border-b-2 border-chestnut"
      style={{
        left: percent(box.x, width),
        top: percent(box.y, height),
        width: percent(box.w, width),
        height: percent(box.h, height),
      }}
    >
      <span className="absolute top-full right-0 max-w-40 truncate bg-chestnut px-1 text-[11px] leading-[15px] text-page">
        {what}
      </span>
    </span>
  );
}

/** The picked part, in full ink and framed, while the rest of the page stands back. */
function Window({ box, width, height, image }: { box: Box; width: number; height: number; image: string }) {
  return (
    <span
      aria-hidden
      data-picked
      className="pointer-events-none absolute bg-no-repeat outline-2 outline-offset-2 outline-chestnut"
      style={{
        left: percent(box.x, width),
        top: percent(box.y, height),
        width: percent(box.w, width),
        height: percent(box.h, height),
        backgroundImage: `url(${image})`,
        backgroundSize: `${(width / box.w) * 100}% ${(height / box.h) * 100}%`,
        backgroundPosition:
          `${width === box.w ? 0 : (box.x / (width - box.w)) * 100}% ` +
          `${height === box.h ? 0 : (box.y / (height - box.h)) * 100}%`,
      }}
    />
  );
}
