import type { Figure } from '#core/judge/asked';
import { nearestTo, type Variant } from '#core/judge/tune';
import type { Counted } from '#core/judge/trial';
import { figureWords } from '#core/judge/words';
import { formatValue } from '#core/value/format';
import { formatDuration } from '#core/when/format';
import { SelectField } from '../../../ui/field';
import { Section } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';

interface LessOrMoreProps {
  variants: Variant[];
  counts: Counted[];
  /** How long the stretch is that they were counted over. */
  weeks: number;
  wanted: number;
  onWanted: (aWeek: number) => void;
  onTake: (variant: Variant) => void;
}

const WANTED = [
  { value: '0.25', label: '1 in 4 weeks' },
  { value: '1', label: '1 a week' },
  { value: '2', label: '2 a week' },
  { value: '7', label: '1 a day' },
  { value: '21', label: '3 a day' },
];

/** What would give about as many alerts as she wants. */
export function LessOrMore({ variants, counts, weeks, wanted, onWanted, onTake }: LessOrMoreProps) {
  const { locale } = useReader();
  const offered = nearestTo(variants, counts, wanted * weeks).filter(
    ({ variant }) => variant.of.what !== 'hold' || !isNoHold(variant),
  );
  if (offered.length === 0) return null;
  return (
    <Section title="Less, or more?">
      <SelectField
        label="For about"
        className="mt-1 max-w-44"
        value={String(wanted)}
        options={WANTED}
        onChange={(event) => onWanted(Number(event.target.value))}
      />
      <ul className="mt-1" data-tune>
        {offered.map(({ variant, count }) => (
          <li key={words(variant, locale)} className="cell flex items-baseline justify-between gap-4">
            <span className="min-w-0">{words(variant, locale)}</span>
            <span className="ml-auto whitespace-nowrap text-third">{count === 1 ? 'once' : `${count} times`}</span>
            <button type="button" className="link" onClick={() => onTake(variant)}>
              take
            </button>
          </li>
        ))}
      </ul>
    </Section>
  );
}

const isNothing = (figure: Figure) => Number(figure.by === 'percent' ? figure.percent : figure.amount.amount) === 0;

const isNoHold = ({ of }: Variant) => of.what === 'hold' && of.hold.for === 'readings' && of.hold.count === 1;

function words({ of }: Variant, locale: string): string {
  switch (of.what) {
    case 'limit':
      return `limit at ${formatValue(of.limit, locale)}`;
    case 'figure':
      return isNothing(of.figure) ? 'by anything at all' : `by more than ${figureWords(of.figure, locale)}`;
    case 'strictness':
      return `about one false alarm in ${of.oneIn}`;
    case 'hold':
      return of.hold.for === 'time' ? `held for ${formatDuration(of.hold.ms)}` : `held for ${of.hold.count} readings`;
  }
}
