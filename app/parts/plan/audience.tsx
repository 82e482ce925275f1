import type { Audience } from '#server/db/people';
import { Tick } from '../../ui/field';
import { listed } from '#core/words';

/** Who should hear: lists and people, with who is not reached yet. */
export function AudienceEditor({ audiences, chosen, onChange }: { audiences: Audience[]; chosen: string[]; onChange: (chosen: string[]) => void }) {
  return (
    <div role="group" aria-label="Who should hear">
      {audiences.map((audience) => (
        <Tick
          key={audience.key}
          checked={chosen.includes(audience.key)}
          onChange={(checked) => onChange(checked ? [...chosen, audience.key] : chosen.filter((key) => key !== audience.key))}
        >
          <span className="font-medium">{audience.name}</span>
          <span className="block text-glance text-third">{describe(audience)}</span>
        </Tick>
      ))}
      <p className="mt-2 border-t border-hairline pt-2 text-glance text-third">By mail, at once. A person reached twice hears of one alert once.</p>
    </div>
  );
}

function describe(audience: Audience): string {
  if (audience.key.startsWith('list:')) return `list: ${audience.members.map((member) => member.name).join(', ') || 'nobody yet'}`;
  const [member] = audience.members;
  return member === undefined ? '' : `${member.email}${member.confirmed ? '' : ', not confirmed'}`;
}

/** The names of those chosen, as the sentence says them. */
export function audienceNames(audiences: Audience[], chosen: string[]): string {
  return listed(chosen.map((key) => audiences.find((audience) => audience.key === key)?.name ?? key));
}
