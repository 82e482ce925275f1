import type { AlertId, WatchId } from '../../id';
import { storedAs } from '../../versioned';
import type { Instant } from '../../when/interval';
import type { News } from '../news';
import { MOST_LINES, type Grouping, type ReportDefinition } from '../definition';
import type { Broken, Coverage, Gathered, PresentValue } from './gathered';
import { beyondGroupsOf, groupsOf, type BeyondGroups, type Group } from './groups';
import { apartFrom, countKinds, linesOf, type Line, type LineKind } from './lines';
import type { Share } from './share';
import { OUR_WORDS, type OwnWords } from './template';

/** The stretch of the record that a cut covers. */
export interface EditionWindow {
  from: Instant;
  until: Instant;
  /** When it was due, where it was made late: how many cuts it makes up for. */
  missed: { count: number; first: Instant } | null;
}

/** An edition as a document: what it says, in nobody's language and zone yet. */
export interface EditionDocument {
  stretch: EditionWindow;
  by: Grouping;
  /** The part of its cut that it is; null where it is the whole. */
  share: Share | null;
  /** Her own words of it. */
  words: OwnWords;
  /** Values as they stood, instead of what moved. */
  present?: PresentValue[];
  /** Alerts that stand on no line here. */
  alerts: { news: News; id: AlertId; watch: WatchId }[];
  groups: Group[];
  /** What was cut off: how many lines of which kind. */
  beyond: Partial<Record<LineKind, number>>;
  /** The same by group, where there are several. */
  beyondGroups?: BeyondGroups;
  counts: { lines: number; moves: number; items: number; nowBelowOurs: number };
  /** How many lines of which kind there are in all. */
  kinds: Partial<Record<LineKind, number>>;
  broken: Broken[];
  coverage: Coverage;
}

/** How an edition's document is stored. */
export const storedDocument = storedAs<EditionDocument>(
  'edition',
  (older) => ({ share: null, words: OUR_WORDS, ...(older as object) }),
  (older) => {
    const { beyondGroups, ...rest } = older as { beyondGroups?: BeyondGroups | GroupsOfShapeOne };
    if (!Array.isArray(beyondGroups)) return older;
    return {
      ...rest,
      beyondGroups: beyondGroupsOf(beyondGroups.map(({ count, ...group }) => ({ ...group, lines: count }))),
    };
  },
);

/** The groups that were cut off, as they were named one by one. */
type GroupsOfShapeOne = (Pick<Group, 'of' | 'title'> & { count: number })[];

/** Makes an edition of what a cut found. */
export function composeEdition(
  order: ReportDefinition,
  stretch: EditionWindow,
  gathered: Gathered,
  share: Share | null = null,
): EditionDocument {
  const lines = linesOf(order, gathered);
  const apart = apartFrom(lines, gathered.alerts);
  const most = order.most ?? MOST_LINES;
  const alerts = apart.slice(0, most);
  const { groups, beyond, beyondGroups } = groupsOf({ ...order, most: most - alerts.length }, lines, gathered);
  const cutOff = apart.length - alerts.length;
  return {
    stretch,
    by: order.by,
    share,
    words: order.words,
    ...(gathered.present === undefined ? {} : { present: gathered.present }),
    alerts: alerts.map(({ id, news, watch }) => ({ id, news, watch })),
    groups,
    beyond: cutOff === 0 ? beyond : { alert: cutOff, ...beyond },
    ...(beyondGroups.count === 0 ? {} : { beyondGroups }),
    counts: {
      lines: lines.length + apart.length,
      moves: countMoves(lines),
      items: new Set(lines.flatMap(({ record }) => record.item?.id ?? [])).size,
      nowBelowOurs: groups.flatMap(({ rows }) => rows).filter(({ wentBelow }) => wentBelow).length,
    },
    kinds: { ...(apart.length === 0 ? {} : { alert: apart.length }), ...countKinds(lines) },
    broken: gathered.broken.map(({ of: _of, at: _at, ...told }) => told),
    coverage: gathered.coverage,
  };
}

const countMoves = (lines: Line[]): number => lines.reduce((sum, { moves }) => sum + moves.length, 0);

/** How many lines an edition has no room for. */
export const countBeyond = ({ beyond }: EditionDocument): number =>
  Object.values(beyond).reduce((count, each) => count + each, 0);

/** Whether an edition tells anything (8). */
export const tellsSomething = ({ counts, broken, present = [] }: EditionDocument): boolean =>
  counts.lines + broken.length + present.length > 0;
