import { fail, ok } from '../../../result';
import type { Figure } from '../../asked';
import type { DraftBase, Said, Sayings } from '../../draft/base';
import { counted, figured, measured, typedUnit } from '../../draft/figures';
import { zoneOf, type SaidIn } from '../../draft/said-in';
import type { BeforeClause } from '../before/judge';
import type { MoveClause } from './judge';

/** A rise or a fall while it is being said, with what it is held against. */
export interface MoveDraft extends DraftBase {
  verb: 'moves by';
  /** Figures of a rise and a fall; empty is switched off. */
  rise: string;
  fall: string;
  /** Whether they are percent. */
  percent: boolean;
  base: 'last' | 'told' | 'extreme' | 'median' | 'pinned' | 'day' | 'week' | 'month' | 'record';
  /** Of a median so many readings. */
  count: string;
  /** A pinned value. */
  limit: string;
  /** Another record of the watch, by its identity. */
  record: string;
  /** What a pinned value is counted in; else as the present value is. */
  unit?: string;
  /** Of a kept one, the zone whose clock it goes by; else the reader's. */
  zone?: string;
}

export const moveSayings: Sayings<MoveDraft, MoveClause | BeforeClause> = {
  verbs: ['moves by'],
  blank: { rise: '', fall: '', percent: false, base: 'last', count: '', limit: '', record: '' },
  besides: ['unit', 'zone'],
  toClause: (draft, said) => {
    const sides = sidesOf(draft, said);
    if (!sides.ok) return sides;
    const asked = { field: draft.field };
    const moves = (against: MoveClause['against']): MoveClause => ({ kind: 'move', asked, against, ...sides.value });
    switch (draft.base) {
      case 'last':
      case 'told':
      case 'extreme':
        return ok(moves({ base: draft.base }));
      case 'median':
        return counted(draft.count, 'readings', (of) => moves({ base: 'median', of }));
      case 'pinned': {
        const value = measured(draft, draft.limit, said, 'the value that it is held against');
        return value.ok ? ok(moves({ base: 'pinned', value: value.value })) : value;
      }
      case 'record':
        return draft.record === ''
          ? fail('Say which record it is held against.')
          : ok(moves({ base: 'series', asked: { field: draft.field, record: draft.record } }));
      default:
        return ok({ kind: 'before', asked, by: draft.base, zone: zoneOf(draft, said), ...sides.value });
    }
  },
};

function sidesOf(draft: MoveDraft, said: SaidIn): Said<{ rise: Figure | null; fall: Figure | null }> {
  const of = (text: string): Said<Figure | null> => (text.trim() === '' ? ok(null) : figured(draft, text, said));
  const [rise, fall] = [of(draft.rise), of(draft.fall)];
  if (!rise.ok) return rise;
  return fall.ok ? ok({ rise: rise.value, fall: fall.value }) : fall;
}

type Drafted = Omit<MoveDraft, keyof DraftBase>;

/** A rise and a fall as they would be typed; null where the one is percent and the other an amount. */
export function sidesDraftOf({ rise, fall }: { rise: Figure | null; fall: Figure | null }): Drafted | null {
  if (rise !== null && fall !== null && rise.by !== fall.by) return null;
  const typed = (figure: Figure | null) =>
    figure === null ? '' : figure.by === 'percent' ? figure.percent : figure.amount.amount;
  const percent = (rise ?? fall)?.by === 'percent';
  return { ...moveSayings.blank, verb: 'moves by', rise: typed(rise), fall: typed(fall), percent };
}

/** A kept move as it would be said. */
export function moveDraftOf({ against, ...sides }: MoveClause): Drafted | null {
  const draft = sidesDraftOf(sides);
  if (draft === null) return null;
  switch (against.base) {
    case 'median':
      return { ...draft, base: 'median', count: String(against.of) };
    case 'pinned':
      return { ...draft, base: 'pinned', limit: against.value.amount, ...typedUnit(against.value) };
    case 'series':
      if (against.asked.watch !== undefined || against.asked.record === undefined) return null;
      return { ...draft, base: 'record', record: against.asked.record };
    default:
      return { ...draft, base: against.base };
  }
}
