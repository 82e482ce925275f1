import { HEADING_NAMES, NAMES, WORDED, type Worded } from '#core/tell/edition/template';
import type { ReportDefinition } from '#core/tell/definition';
import { listed } from '#core/words';
import { TextField } from '../../../ui/field';
import { Part } from './sentence';

interface WordsProps {
  order: ReportDefinition;
  onSay: (change: Partial<ReportDefinition>) => void;
}

const LONGEST = 500;
const ASKED: Record<Worded, string> = { subject: 'Subject', opening: 'Opening', heading: 'Heading of a group' };

/**
 * Her own words of an edition, as Liquid templates; names are put in from a list, and the edition beside shows them
 * filled.
 */
export function WordsPart({ order: { words }, onSay }: WordsProps) {
  const own = WORDED.filter((part) => words[part].trim() !== '');
  const say = (part: Worded, text: string) => onSay({ words: { ...words, [part]: text } });
  return (
    <Part label="Her own words" said={own.length === 0 ? 'ours' : `her own ${listed(own)}`} wide>
      <div className="flex flex-col gap-4">
        {WORDED.map((part) => (
          <div key={part}>
            <TextField
              label={ASKED[part]}
              value={words[part]}
              maxLength={LONGEST}
              placeholder="ours"
              onChange={(event) => say(part, event.target.value)}
            />
            <p className="mt-1 flex flex-wrap gap-x-3 text-glance">
              {Object.entries(part === 'heading' ? HEADING_NAMES : NAMES).map(([name, means]) => (
                <button
                  key={name}
                  type="button"
                  className="link text-second"
                  title={means}
                  onClick={() => say(part, `${words[part]}{{ ${name} }}`)}
                >
                  {name}
                </button>
              ))}
            </p>
          </div>
        ))}
        <p className="text-glance text-third">
          Liquid: {'{% if below > 0 %}Below ours: {% endif %}{{ news }}'}. What cannot be filled is said in our words.
        </p>
      </div>
    </Part>
  );
}
