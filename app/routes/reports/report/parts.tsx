import { valueWords } from '#core/tell/edition/share';
import { SPLIT_WORDS, splitWords } from '#core/tell/definition-words';
import { ITEM_PROPERTIES, SPLITS, type Split, type SplitBy, type ReportDefinition } from '#core/tell/definition';
import { countOf, listed } from '#core/words';
import { AudienceEditor, audienceNames } from '../../../parts/plan/audience';
import { Choice } from '../../../ui/field';
import type { Known } from './known';
import type { Previewed } from './preview.server';
import { Part } from './sentence';

interface PartsProps {
  order: ReportDefinition;
  known: Known;
  shown: Previewed | null;
  onSay: (change: Partial<ReportDefinition>) => void;
}

const NO_VALUE = '(none)';
const keyOf = (value: string | null) => value ?? NO_VALUE;

/** One edition for all, or one for each value, and who reads which (14). */
export function Parts({ order, known, shown, onSay }: PartsProps) {
  const { split } = order;
  const choose = (by: string) =>
    onSay({ split: SPLITS.some((each) => each === by) ? { by: by as SplitBy, parts: [] } : null });
  return (
    <>
      <Part label="How many editions" said={splitWords(split)}>
        <Choice
          label="How many editions"
          value={split?.by ?? 'one'}
          options={[
            { value: 'one', label: 'one edition for all' },
            ...SPLITS.map((by) => ({ value: by, label: `one for each ${SPLIT_WORDS[by]}` })),
          ]}
          onChange={choose}
        />
      </Part>
      {split === null ? null : <Values split={split} {...{ order, known, shown, onSay }} />}
    </>
  );
}

/** Values that there are, those of last week's news first; with what became of their editions then. */
function valuesOf(
  { by, parts }: Split,
  { sorts }: ReportDefinition['takes'],
  { tags, sites, ...known }: Known,
  shown: Previewed | null,
): (string | null)[] {
  const ours = sites
    .filter(({ kind }) => by === 'site' || kind === 'channel' || kind === 'own')
    .map(({ name }) => name);
  const property = ITEM_PROPERTIES.find((of) => of === by);
  // What is first read goes with the moves of its field; of no kind is none.
  const there =
    by === 'news'
      ? sorts.filter((sort) => sort !== 'first readings')
      : [...(property === undefined ? (by === 'tag' ? tags : ours) : known[property]), null];
  return [
    ...new Set([...(shown?.week.parts.map(({ value }) => value) ?? []), ...parts.map(({ value }) => value), ...there]),
  ];
}

const MOST_VALUES = 100;

function Values({ split, order, known, shown, onSay }: PartsProps & { split: Split }) {
  const fallback = audienceNames(known.audiences, order.readers) || 'nobody';
  const values = valuesOf(split, order.takes, known, shown);
  const sayReaders = (value: string | null, readers: string[]) => {
    const others = split.parts.filter((part) => part.value !== value);
    onSay({ split: { ...split, parts: readers.length === 0 ? others : [...others, { value, readers }] } });
  };
  return (
    <ul data-values className="pt-1">
      {values.slice(0, MOST_VALUES).map((value) => {
        const readers = split.parts.find((part) => part.value === value)?.readers ?? [];
        const said = valueWords(split.by, value);
        const week = shown?.week.parts.find((part) => part.value === value)?.editions ?? 0;
        return (
          <li key={keyOf(value)} className="cell" data-value={keyOf(value)}>
            <span className="font-medium">{said}</span> to{' '}
            <Part
              label={`Who reads ${said}`}
              said={readers.length === 0 ? 'nobody' : audienceNames(known.audiences, readers)}
              blank={readers.length === 0}
            >
              <AudienceEditor
                audiences={known.audiences}
                chosen={readers}
                onChange={(chosen) => sayReaders(value, chosen)}
                said={`Where nobody is ticked it goes to ${fallback}.`}
              />
            </Part>
            {readers.length > 0 || week === 0 ? null : (
              <span className="block text-second">
                {said} has nobody: {countOf(week, 'edition')} last week would have gone to {fallback}.
              </span>
            )}
          </li>
        );
      })}
      {values.length > MOST_VALUES ? (
        <li className="text-second">
          And {values.length - MOST_VALUES} more that have nobody named; they go to {fallback}.
        </li>
      ) : null}
    </ul>
  );
}

/** Who hears what broke: those who read the rest, or others, in an edition of its own (17). */
export function BrokenPart({ order, known, onSay }: Omit<PartsProps, 'shown'>) {
  const names = listed(order.broken.map((key) => audienceNames(known.audiences, [key])));
  return (
    <Part
      label="Who hears what broke"
      said={order.broken.length === 0 ? 'with the rest' : `an edition of its own, to ${names}`}
    >
      <AudienceEditor
        audiences={known.audiences}
        chosen={order.broken}
        onChange={(broken) => onSay({ broken })}
        said="Where nobody is ticked it stands at the end of each edition."
      />
    </Part>
  );
}
