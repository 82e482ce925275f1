import { sizeWords } from '#core/tell/definition-words';
import { PRICES_NOTIFIED, type LeastMove, type ReportDefinition } from '#core/tell/definition';
import type { Decimal } from '#core/value/decimal';
import { money } from '#core/value/parse';
import { Choice, SelectField, TextField } from '../../../ui/field';
import { useReader } from '../../shell/frame/reader';
import { Part } from './sentence';

interface SizeProps {
  order: ReportDefinition;
  onSay: (change: Partial<ReportDefinition>) => void;
}

const PRICES_SAID: Record<ReportDefinition['size']['prices'], string> = {
  any: 'wherever they end',
  'below ours': 'only those that end below ours',
  'under the minimum': 'only those that end under the agreed minimum',
};

/** How far prices must move to be told, and from where that is counted (2). */
export function SizePart({ order, onSay }: SizeProps) {
  const { place } = useReader();
  const { size } = order;
  const say = (change: Partial<ReportDefinition['size']>) => onSay({ size: { ...size, ...change } });
  return (
    <Part label="How far prices must move" said={sizeWords(order, place.locale)}>
      <div className="flex flex-col gap-3">
        <LeastEditor label="Falls" least={size.falls} onSay={(falls) => say({ falls })} />
        <LeastEditor label="Rises" least={size.rises} onSay={(rises) => say({ rises })} />
        <Choice
          label="Which prices"
          value={size.prices}
          options={PRICES_NOTIFIED.map((value) => ({ value, label: PRICES_SAID[value] }))}
          onChange={(prices) => say({ prices })}
        />
        <Choice
          label="Counted from"
          value={size.base}
          options={[
            { value: 'cut', label: 'counted from the last cut' },
            { value: 'told', label: 'from what was shown last, so that small moves add up' },
          ]}
          onChange={(base) => say({ base })}
        />
        <p className="text-glance text-third">
          Judged exactly, on what is shown: the net move, or each. A text, a state or a rise from nought is not held
          back by it.
        </p>
      </div>
    </Part>
  );
}

const LEAST: { value: LeastMove['is']; label: string }[] = [
  { value: 'any', label: 'of any size' },
  { value: 'percent', label: 'of at least so many percent' },
  { value: 'amount', label: 'of at least an amount' },
  { value: 'off', label: 'not told' },
];

const STARTS: Record<LeastMove['is'], LeastMove> = {
  any: { is: 'any' },
  off: { is: 'off' },
  percent: { is: 'percent', least: '5' as Decimal },
  amount: { is: 'amount', least: money('1.00', 'GBP') },
};

const typed = (text: string) => text.replace(',', '.') as Decimal;

function LeastEditor({ label, least, onSay }: { label: string; least: LeastMove; onSay: (least: LeastMove) => void }) {
  const start = (is: string) =>
    onSay(LEAST.flatMap(({ value }) => (value === is ? [STARTS[value]] : []))[0] ?? STARTS.any);
  return (
    <div className="grid grid-cols-2 items-end gap-3">
      <SelectField label={label} value={least.is} options={LEAST} onChange={(event) => start(event.target.value)} />
      {least.is === 'percent' ? (
        <TextField
          label="Percent"
          inputMode="decimal"
          value={least.least}
          onChange={(event) => onSay({ is: 'percent', least: typed(event.target.value) })}
        />
      ) : null}
      {least.is === 'amount' ? <AmountEditor label={label} least={least} onSay={onSay} /> : null}
    </div>
  );
}

/** An amount of money: what is priced in another currency is not held back by it. */
function AmountEditor({
  label,
  least,
  onSay,
}: {
  label: string;
  least: Extract<LeastMove, { is: 'amount' }>;
  onSay: (least: LeastMove) => void;
}) {
  const { amount } = least.least;
  const currency = least.least.kind === 'money' ? least.least.currency : '';
  return (
    <div className="grid grid-cols-2 gap-2">
      <TextField
        label="Amount"
        aria-label={`${label}, amount`}
        inputMode="decimal"
        value={amount}
        onChange={(event) => onSay({ is: 'amount', least: money(typed(event.target.value), currency) })}
      />
      <TextField
        label="Currency"
        aria-label={`${label}, currency`}
        maxLength={3}
        value={currency}
        onChange={(event) => onSay({ is: 'amount', least: money(amount, event.target.value.toUpperCase()) })}
      />
    </div>
  );
}
