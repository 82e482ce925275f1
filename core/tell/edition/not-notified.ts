import type { EditionDocument } from './document';
import type { Broken } from './gathered';
import type { Group, Row } from './groups';
import { countKinds, type LineKind } from './lines';

/** An edition as it is for one reader, and how many of its lines she was told before. */
interface NotNotified {
  document: EditionDocument;
  leftOut: number;
}

/** By which word of a watch that broke, or is read again, is known: `7 failing 1764403200000`. */
export const brokenKey = ({ watch, kind, since }: Pick<Broken, 'watch' | 'kind' | 'since'>): string =>
  `${watch} ${kind} ${since}`;

/**
 * What is left of an edition for a reader who was told some of its alerts, and of what broke, at once before (19, 20).
 * A line goes where all alerts on it were told; of an item's entry none goes alone, since each stands there beside the
 * others: it goes whole, or stays whole.
 */
export function withoutNotified(
  whole: EditionDocument,
  told: ReadonlySet<number>,
  toldBroken: ReadonlySet<string> = NONE,
): NotNotified {
  const broken = whole.broken.filter((each) => !toldBroken.has(brokenKey(each)));
  const { document, leftOut } = without(
    { ...whole, broken },
    {
      alert: (id) => told.has(id),
      line: ({ alerts }) => alerts.length > 0 && alerts.every(({ id }) => told.has(id)),
    },
  );
  return { document, leftOut: leftOut + whole.broken.length - broken.length };
}

const NONE: ReadonlySet<string> = new Set();

/** What an edition shows of some alerts alone: the rest of it was told. */
export const onlyAlerts = (whole: EditionDocument, owed: ReadonlySet<number>): EditionDocument =>
  without(newsShown(whole), {
    alert: (id) => !owed.has(id),
    line: ({ alerts }) => !alerts.some(({ id }) => owed.has(id)),
  }).document;

/** An edition as if it held no more than the news that has room in it. */
function newsShown({ present: _present, beyondGroups: _groups, ...whole }: EditionDocument): EditionDocument {
  const groups = whole.groups.map((group) => ({ ...group, beyond: 0 }));
  const rows = groups.flatMap((group) => group.rows);
  const kinds = [...whole.alerts.map((): LineKind => 'alert'), ...rows.flatMap(({ kind }) => kind ?? [])];
  return {
    ...whole,
    groups,
    broken: [],
    beyond: {},
    kinds: countKinds(kinds.map((kind) => ({ kind }))),
    counts: {
      lines: kinds.length,
      moves: new Set(rows.flatMap(({ changes }) => changes)).size,
      items: itemsGone(rows, []),
      nowBelowOurs: rows.filter(({ wentBelow }) => wentBelow).length,
    },
  };
}

/** Of which alerts, and lines, an edition is not to tell. */
interface Gone {
  alert: (id: number) => boolean;
  line: (row: Row) => boolean;
}

function without(document: EditionDocument, isGone: Gone): NotNotified {
  const alerts = document.alerts.filter(({ id }) => !isGone.alert(id));
  const parted = document.groups.map((group) => partGroup(group, isGone));
  const groups = parted.flatMap(({ group }) => (group.rows.length === 0 ? [] : [group]));
  const gone = parted.flatMap((each) => each.gone);
  const goneLines = gone.flatMap(({ kind }) => kind ?? []);
  const leftOut = document.alerts.length - alerts.length + goneLines.length;
  if (leftOut === 0) return { document, leftOut };
  const { counts, kinds } = document;
  return {
    leftOut,
    document: {
      ...document,
      alerts,
      groups,
      counts: {
        lines: counts.lines - leftOut,
        moves: counts.moves - new Set(gone.flatMap(({ changes }) => changes)).size,
        items: counts.items - itemsGone(gone, groups),
        nowBelowOurs: counts.nowBelowOurs - gone.filter(({ wentBelow }) => wentBelow).length,
      },
      kinds: fewer(kinds, [...document.alerts.slice(alerts.length).map((): LineKind => 'alert'), ...goneLines]),
    },
  };
}

function partGroup(group: Group, isGone: Gone): { group: Group; gone: Row[] } {
  if (group.of === 'item') {
    const lines = group.rows.filter(({ kind }) => kind !== null);
    const isWhole = group.beyond === 0 && lines.length > 0 && lines.every(isGone.line);
    return isWhole ? { group: { ...group, rows: [] }, gone: group.rows } : { group, gone: [] };
  }
  const gone = new Set<Row>();
  let goes = false;
  for (const row of group.rows) {
    // The further rows of a line bear no kind of their own.
    if (row.kind !== null) goes = isGone.line(row);
    if (goes) gone.add(row);
  }
  return { group: { ...group, rows: group.rows.filter((row) => !gone.has(row)) }, gone: [...gone] };
}

const itemOf = ({ record }: Row): number | undefined => record?.item?.id;

/** How many items no line is left of. */
function itemsGone(gone: Row[], groups: Group[]): number {
  const left = new Set(groups.flatMap(({ rows }) => rows.filter(({ moved }) => moved).map(itemOf)));
  return new Set(
    gone
      .filter(({ moved }) => moved)
      .flatMap((row) => itemOf(row) ?? [])
      .filter((item) => !left.has(item)),
  ).size;
}

function fewer(kinds: EditionDocument['kinds'], gone: LineKind[]): EditionDocument['kinds'] {
  const left = { ...kinds };
  for (const kind of gone) left[kind] = (left[kind] ?? 0) - 1;
  return left;
}
