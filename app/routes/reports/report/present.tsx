import { useFetcher } from 'react-router';
import type { Present, ReportDefinition } from '#core/tell/definition';
import { countOf } from '#core/words';
import type { ChoosableSeries } from '#server/db/report/present';
import { CellField, SelectField } from '../../../ui/field';
import type { Known } from './known';
import { Part } from './sentence';

interface PresentProps {
  order: ReportDefinition;
  known: Known;
  onSay: (change: Partial<ReportDefinition>) => void;
}

/** Chosen values as they stand, instead of what moved, under names and in an order of her own (15). */
export function PresentPart({ order: { present }, known, onSay }: PresentProps) {
  const say = (next: Present[]) => onSay({ present: next });
  const said =
    present.length === 0
      ? 'what moved'
      : `${countOf(present.length, 'value')} as ${present.length === 1 ? 'it stands' : 'they stand'}`;
  return (
    <Part label="What moved, or what stands" said={said} wide>
      <p className="text-second">
        {present.length === 0
          ? 'It tells what moved. Choose values here to have those as they stand instead, whether they moved or not.'
          : 'These are in every edition, in this order; what moved is not. Take them all off to hear what moved.'}
      </p>
      <ul data-present className="pt-1">
        {present.map((each, place) => (
          <li key={each.series} className="cell flex items-center gap-2">
            <CellField
              aria-label={`Name of value ${place + 1}`}
              value={each.name}
              maxLength={120}
              onChange={(event) =>
                say(present.map((other) => (other === each ? { ...each, name: event.target.value } : other)))
              }
            />
            <button
              type="button"
              className="link disabled:text-third"
              aria-label={`Move ${each.name} up`}
              disabled={place === 0}
              onClick={() => say(movedUp(present, place))}
            >
              Up
            </button>
            <button
              type="button"
              className="link"
              aria-label={`Take ${each.name} off`}
              onClick={() => say(present.filter((other) => other !== each))}
            >
              Off
            </button>
          </li>
        ))}
      </ul>
      <Adding watches={known.watches} present={present} onAdd={(one) => say([...present, one])} />
    </Part>
  );
}

function movedUp(present: Present[], place: number): Present[] {
  const [before, moved] = [present[place - 1], present[place]];
  if (before === undefined || moved === undefined) return present;
  return present.map((each, at) => (at === place - 1 ? moved : at === place ? before : each));
}

function Adding({
  watches,
  present,
  onAdd,
}: {
  watches: Known['watches'];
  present: Present[];
  onAdd: (one: Present) => void;
}) {
  const { data, state, load } = useFetcher<{ series: ChoosableSeries[] }>();
  const open = (data?.series ?? []).filter(({ id }) => !present.some(({ series }) => series === id));
  const add = (id: string) => {
    const chosen = open.find((each) => String(each.id) === id);
    if (chosen !== undefined) onAdd({ series: chosen.id, name: chosen.name });
  };
  return (
    <div className="flex flex-col gap-2 pt-2">
      <SelectField
        label="Of the watch"
        defaultValue=""
        options={[
          { value: '', label: 'choose one' },
          ...watches.map(({ id, name }) => ({ value: String(id), label: name })),
        ]}
        onChange={(event) => void load(`/reports/series?watch=${event.target.value}`)}
      />
      {data === undefined ? null : (
        <SelectField
          label="Show"
          value=""
          disabled={state !== 'idle' || open.length === 0}
          options={[
            { value: '', label: open.length === 0 ? 'nothing more of it' : 'choose a value' },
            ...open.map(({ id, name }) => ({ value: String(id), label: name })),
          ]}
          onChange={(event) => add(event.target.value)}
        />
      )}
    </div>
  );
}
