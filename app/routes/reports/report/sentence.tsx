import type { ReactNode } from 'react';
import {
  cadenceWords,
  groupingWords,
  orderNames,
  scopeWords,
  SPLIT_WORDS,
  takesWords,
} from '#core/tell/definition-words';
import { SORT_WORDS } from '#core/tell/edition/choose';
import { GROUPINGS, NEWS_SORTS, type Grouping, type ReportDefinition } from '#core/tell/definition';
import { isAtOnce, type Cadence } from '#core/when/cadence';
import { AudienceEditor, audienceNames } from '../../../parts/plan/audience';
import { Choice, Tick } from '../../../ui/field';
import { Popover } from '../../../ui/popover';
import { useReader } from '../../shell/frame/reader';
import { CadenceEditor } from './cadence';
import type { Known } from './known';
import { Where } from './where';

interface Saying {
  order: ReportDefinition;
  known: Known;
  onSay: (change: Partial<ReportDefinition>) => void;
}

/** A part of the sentence that opens what changes it. */
export function Part({
  label,
  said,
  blank = false,
  wide = false,
  children,
}: {
  label: string;
  said: string;
  blank?: boolean;
  wide?: boolean;
  children: ReactNode;
}) {
  const trigger = (
    <button type="button" className={`said ${blank ? 'text-chestnut' : ''}`}>
      {said}
    </button>
  );
  return (
    <Popover label={label} trigger={trigger} wide={wide}>
      {children}
    </Popover>
  );
}

/** Names by number: those that are known, and those that can be chosen. */
const calledNow = (before: [number, string][], now: readonly { id: number; name: string }[]): [number, string][] => [
  ...now.map(({ id, name }): [number, string] => [id, name]),
  ...before,
];

const calledBy = ({ names, sites, watches, items, rules }: Known) =>
  orderNames({
    sites: calledNow(names.sites, sites),
    watches: calledNow(names.watches, watches),
    items: calledNow(names.items, items),
    rules: calledNow(names.rules, rules),
  });

/** An order cut otherwise: what is told at once is told move by move. */
const cutBy = (order: ReportDefinition, cadence: Cadence): Partial<ReportDefinition> =>
  isAtOnce(cadence) ? { cadence, shows: 'each', size: { ...order.size, base: 'cut' } } : { cadence };

/** The standing order as a sentence, each part of which can be said otherwise. */
export function OrderSentence({ order, known, onSay }: Saying) {
  const { place } = useReader();
  const when = cadenceWords(order, place.zone);
  const readers = audienceNames(known.audiences, order.readers);
  return (
    <h1
      className="pt-3.5 pb-3 font-serif text-[22px] leading-[31px] font-normal text-pretty md:text-sentence"
      data-order
    >
      <Part label="When it is made" said={`${when.charAt(0).toUpperCase()}${when.slice(1)}`}>
        <CadenceEditor cadence={order.cadence} zone={place.zone} onSay={(cadence) => onSay(cutBy(order, cadence))} />
      </Part>
      , tell {order.split === null ? '' : `the readers of each ${SPLIT_WORDS[order.split.by]}, and `}
      <Part label="Who reads it" said={readers || '____'} blank={readers === ''}>
        <AudienceEditor
          audiences={known.audiences}
          chosen={order.readers}
          onChange={(chosen) => onSay({ readers: chosen })}
          said="A person reached twice gets one mail."
        />
      </Part>
      {order.split === null ? ' ' : ' the rest, '}
      <Part label="What it takes" said={takesWords(order)} blank={order.takes.sorts.length === 0}>
        <Takes order={order} known={known} onSay={onSay} />
      </Part>{' '}
      <Part label="Where" said={scopeWords(order, calledBy(known))}>
        <Where order={order} known={known} onSay={onSay} />
      </Part>
      {order.present.length > 0 ? null : <Ordered order={order} onSay={onSay} />}.
    </h1>
  );
}

/** Since when what moved is told, and how it is ordered. */
function Ordered({ order, onSay }: Omit<Saying, 'known'>) {
  return (
    <>
      {isAtOnce(order.cadence) ? ', ' : ' since the last edition, '}
      <Part label="How it is ordered" said={groupingWords(order)}>
        <Choice<Grouping>
          label="How it is ordered"
          value={order.by}
          options={GROUPINGS.map((value) => ({ value, label: groupingWords({ by: value }) }))}
          onChange={(by) => onSay({ by })}
        />
      </Part>
      {order.by === 'item' ? (
        <>
          ,{' '}
          <Part
            label="What of an item is shown"
            said={order.items === 'whole' ? 'with every rival' : 'only what moved'}
          >
            <Choice
              label="What of an item is shown"
              value={order.items}
              options={[
                { value: 'whole', label: 'ours and every rival of an item that moved' },
                { value: 'moved', label: 'ours and only what moved; how many others is said' },
              ]}
              onChange={(items) => onSay({ items })}
            />
          </Part>
        </>
      ) : null}
    </>
  );
}

const toggled = <T,>(list: readonly T[], value: T, on: boolean): T[] =>
  on ? [...list, value] : list.filter((each) => each !== value);

function Takes({ order, onSay }: Saying) {
  const { takes } = order;
  return (
    <div role="group" aria-label="What it takes">
      {NEWS_SORTS.map((sort) => (
        <Tick
          key={sort}
          checked={takes.sorts.includes(sort)}
          onChange={(on) => onSay({ takes: { ...takes, sorts: toggled(takes.sorts, sort, on) } })}
        >
          {SORT_WORDS[sort]}
        </Tick>
      ))}
    </div>
  );
}
