import type { Audience } from '#server/db/person/people';
import { Tick } from '../../ui/field';
import { listed } from '#core/words';

const AT_ONCE = 'By mail, at once. A person reached twice hears of one alert once.';

/** Who should hear: lists and people, with who is not reached yet. */
interface AudienceEditorProps {
  audiences: Audience[];
  chosen: string[];
  onChange: (chosen: string[]) => void;
  /** How they hear. */
  said?: string;
}

export function AudienceEditor({ audiences, chosen, onChange, said = AT_ONCE }: AudienceEditorProps) {
  return (
    <div role="group" aria-label="Who should hear">
      {audiences.map((audience) => (
        <Tick
          key={audience.key}
          checked={chosen.includes(audience.key)}
          onChange={(checked) =>
            onChange(checked ? [...chosen, audience.key] : chosen.filter((key) => key !== audience.key))
          }
        >
          <span className="font-medium">{audience.name}</span>
          <span className="block text-glance text-third">{describe(audience)}</span>
        </Tick>
      ))}
      <p className="mt-2 border-t border-hairline pt-2 text-glance text-third">{said}</p>
    </div>
  );
}

function describe(audience: Audience): string {
  if (audience.key.startsWith('list:'))
    return `list: ${audience.members.map((member) => member.name).join(', ') || 'nobody yet'}`;
  const [member] = audience.members;
  return member === undefined
    ? ''
    : `${member.email}${member.kept === null ? '' : `, ${member.kept === 'paused' ? 'refuses mail' : 'not confirmed'}`}`;
}

/** The names of those chosen, as the sentence says them. */
export function audienceNames(audiences: Audience[], chosen: string[]): string {
  return listed(chosen.map((key) => audiences.find((audience) => audience.key === key)?.name ?? key));
}
