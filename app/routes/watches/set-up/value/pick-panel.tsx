import type { FieldType } from '#core/read/definition';
import { describeFrame } from '#core/read/frame/take';
import type { Picked } from '#core/read/picking';
import { formatValue } from '#core/value/format';
import { kindLabel, KINDS } from '#core/read/kinds';
import { Button } from '../../../../ui/button';
import { SelectField } from '../../../../ui/field';
import { Section } from '../../../../ui/page';

interface PickPanelProps {
  picked: Picked;
  locale: string;
  onType: (kind: FieldType['kind']) => void;
  onWider: () => void;
  onNarrower: () => void;
  onTake: () => void;
  onLeave: () => void;
  onRecords: () => void;
  /** The texts that are watched: the picked part may be left out of them. */
  texts: string[];
  onMask: (label: string) => void;
}

/** What was picked: the value as it would be read, how it is found, whether that holds, and what to do with it. */
export function PickPanel({
  picked,
  locale,
  onType,
  onWider,
  onNarrower,
  onTake,
  onLeave,
  onRecords,
  texts,
  onMask,
}: PickPanelProps) {
  const { candidate, ways, listing } = picked;
  const frame = describeFrame(candidate.frame);
  return (
    <div data-pick aria-live="polite">
      <div className="flex items-end justify-between gap-4">
        <p className="min-w-0 truncate font-serif text-[36px] leading-[42px] font-medium" data-pick-value>
          {formatValue(candidate.value, locale)}
        </p>
        <SelectField
          className="w-32 shrink-0"
          label="Read as"
          value={candidate.type.kind}
          options={KINDS.map(({ kind, label }) => ({ value: kind, label }))}
          onChange={(event) => onType(event.target.value as FieldType['kind'])}
        />
      </div>
      <p className="mt-1 text-glance text-third">
        {kindLabel(candidate.type.kind)} from “{picked.text.length > 60 ? `${picked.text.slice(0, 60)}…` : picked.text}”
        {candidate.byLocale ? ', by the page’s language' : ''} · {picked.trail.join(' › ')}
      </p>
      <div className="mt-1.5 flex items-center gap-3 text-glance">
        <button type="button" className="link disabled:opacity-45" onClick={onWider} disabled={picked.wider === null}>
          Wider <kbd className="text-third">[</kbd>
        </button>
        <button
          type="button"
          className="link disabled:opacity-45"
          onClick={onNarrower}
          disabled={picked.narrower === null}
        >
          Narrower <kbd className="text-third">]</kbd>
        </button>
        <button type="button" className="link" onClick={onLeave}>
          Not this
        </button>
        <Button weight="strong" className="ml-auto" onClick={onTake}>
          Take {candidate.label}
        </Button>
      </div>
      <Section title="How it is found" className="mt-3 border-t border-rule pt-2">
        <ol>
          {ways.map((way, at) => (
            <li key={way.said} className="cell flex items-baseline gap-2.5">
              <span className="w-4 shrink-0 text-third">{at + 1}</span>
              <span className="min-w-0 grow break-words">
                {way.said}
                {way.warning === null ? null : <span className="block text-glance text-third">{way.warning}</span>}
              </span>
              <span className="shrink-0 text-glance text-third">
                {way.matches === 1 ? way.sureness : `${way.matches} matches`}
              </span>
            </li>
          ))}
        </ol>
        <p className="pt-1.5 text-glance text-third">{proofWords(ways)}</p>
      </Section>
      {frame.length === 0 ? null : (
        <Section title="What it is there" className="mt-3 border-t border-rule pt-2">
          <ul data-frame>
            {frame.map((said) => (
              <li key={said} className="cell break-words text-second">
                {said}
              </li>
            ))}
          </ul>
          <p className="pt-1.5 text-glance text-third">
            If that changes, you are asked before anything is called news.
          </p>
        </Section>
      )}
      {texts.map((label) => (
        <p key={label} className="mt-3">
          <button type="button" className="link" onClick={() => onMask(label)}>
            Leave this part out of “{label}”
          </button>
        </p>
      ))}
      {listing === null || listing.count < 2 ? null : (
        <p className="mt-3">
          <button type="button" className="link" onClick={onRecords}>
            Read all of these instead: {listing.said}
          </button>
        </p>
      )}
    </div>
  );
}

function proofWords(ways: Picked['ways']): string {
  const numbers = (good: (way: Picked['ways'][number]) => boolean) =>
    ways.flatMap((way, at) => (good(way) ? at + 1 : [])).join(', ');
  const still = numbers(({ proof }) => proof !== null && proof.blanked !== false);
  const altered = numbers(({ proof }) => proof?.altered === true);
  return (
    `With the value blanked ${still || 'none'} still ${still.includes(',') ? 'find' : 'finds'} the place; altered, ` +
    `${altered || 'none'} ${altered.includes(',') ? 'read' : 'reads'} the other value.`
  );
}
