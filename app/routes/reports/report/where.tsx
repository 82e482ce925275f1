import { KIND_WORDS } from '#core/tell/definition-words';
import { ITEM_PROPERTIES, SITE_KINDS, WEIGHTS, type ReportDefinition } from '#core/tell/definition';
import { Tick } from '../../../ui/field';
import { PickMany } from '../../../ui/pick-many';
import type { Known } from './known';

interface WhereProps {
  order: ReportDefinition;
  known: Known;
  onSay: (change: Partial<ReportDefinition>) => void;
}

type Only = ReportDefinition['takes']['only'];

const named = <Id,>(list: readonly { id: Id; name: string }[]) =>
  list.map(({ id, name }) => ({ value: id, label: name }));
const words = <T extends string>(list: readonly T[]) => list.map((value) => ({ value, label: value }));

/** What a report chooses by: within one list any entry counts, between lists all must. */
export function Where({ order, known, onSay }: WhereProps) {
  const { takes } = order;
  const { only, not } = takes;
  const say = (change: Partial<Only>) => onSay({ takes: { ...takes, only: { ...only, ...change } } });
  const leave = (change: Partial<ReportDefinition['takes']['not']>) =>
    onSay({ takes: { ...takes, not: { ...not, ...change } } });
  return (
    <div className="flex flex-col gap-3">
      <p className="text-glance text-third">Of each list that is used any entry counts; between lists all must.</p>
      <PickMany
        legend="Only at"
        options={SITE_KINDS.map((value) => ({ value, label: KIND_WORDS[value] }))}
        chosen={only.kinds}
        onChange={(kinds) => say({ kinds })}
      />
      <PickMany
        legend="Only at these sites"
        options={named(known.sites)}
        chosen={only.sites}
        onChange={(sites) => say({ sites })}
      />
      <PickMany
        legend="Only watches with one of these tags"
        options={words(known.tags)}
        chosen={only.tags}
        onChange={(tags) => say({ tags })}
      />
      {ITEM_PROPERTIES.map((of) => (
        <PickMany
          key={of}
          legend={`Only items of this ${of}`}
          options={words(known[of])}
          chosen={only[of]}
          onChange={(list) => say({ [of]: list })}
        />
      ))}
      <PickMany
        legend="Only these items"
        options={named(known.items)}
        chosen={only.items}
        onChange={(items) => say({ items })}
      />
      <PickMany
        legend="Only these fields"
        options={words(known.fields)}
        chosen={only.fields}
        onChange={(fields) => say({ fields })}
      />
      <PickMany
        legend="Only these watches"
        options={named(known.watches)}
        chosen={only.watches}
        onChange={(watches) => say({ watches })}
      />
      <PickMany
        legend="Only alerts of this weight"
        options={words(WEIGHTS)}
        chosen={only.weights}
        onChange={(weights) => say({ weights })}
      />
      <PickMany
        legend="Only alerts of these rules"
        options={named(known.rules)}
        chosen={only.rules}
        onChange={(rules) => say({ rules })}
      />
      <fieldset>
        <legend className="text-glance text-third">But not</legend>
        <Tick checked={not.ours} onChange={(ours) => leave({ ours })}>
          our own shop
        </Tick>
      </fieldset>
      <PickMany
        legend="Nor these sites"
        options={named(known.sites)}
        chosen={not.sites}
        onChange={(sites) => leave({ sites })}
      />
      <PickMany
        legend="Nor these watches"
        options={named(known.watches)}
        chosen={not.watches}
        onChange={(watches) => leave({ watches })}
      />
    </div>
  );
}
