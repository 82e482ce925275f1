import { data, Form, useNavigation } from 'react-router';
import { fail, ok } from '#core/result';
import { headline } from '#core/tell/news';
import { formatInstant, type Place } from '#core/when/format';
import { findPersonById, placeOf } from '#server/db/person/people';
import { findNotified } from '#server/db/rule/raised';
import { actOn } from '#server/pipeline/episode-actions';
import { readForm, textIn } from '../../../form.server';
import { services, keepingServices } from '../../../services.server';
import { Button } from '../../../ui/button';
import { Doorway } from '../../../ui/doorway';
import { TextField } from '../../../ui/field';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [
  { title: 'Take it on · Shrike' },
  { name: 'robots', content: 'noindex' },
];

const LONGEST_NOTE = 500;

/** What a link of a mail leads to; or why it leads nowhere, as a sentence. */
async function openLink(token: string) {
  const { pool, links, clock } = services();
  const said = links.open(token);
  if (said === null)
    return fail('This link is not one of ours, or was cut short on its way. Open it from the mail again.');
  if (said.until < clock()) return fail('This link has ended. Open Shrike, and take it on there.');
  const [person, told] = [await findPersonById(pool, said.person), await findNotified(pool, said.alert)];
  return person === null || told === null ? fail('What this mail told of is no longer kept.') : ok({ person, told });
}

/** Following a link changes nothing: whoever scans mails follows it, too. */
export async function loader({ params }: Route.LoaderArgs) {
  const opened = await openLink(params.token);
  if (!opened.ok) return data({ problem: opened.error, offer: null }, { status: 404 });
  const { person, told } = opened.value;
  const place = placeOf(person);
  const { open, takenOn } = told;
  return data({
    problem: null,
    offer: {
      name: person.name,
      place,
      said: headline(told.news, place.locale),
      open,
      episode: told.episode !== null,
      takenOn,
    },
  });
}

export async function action({ request, params }: Route.ActionArgs) {
  const opened = await openLink(params.token);
  if (!opened.ok) return { problem: opened.error };
  const { person, told } = opened.value;
  const form = await readForm(request);
  const { clock, signals } = services();
  if (told.episode === null)
    return { problem: 'There is no episode to take on: what this mail told of was of one moment.' };
  const deed = { what: 'take on' as const, note: textIn(form, 'note').slice(0, LONGEST_NOTE) };
  const done = await actOn(await keepingServices(), told.episode, deed, person.id, clock());
  signals.say('watches', 'outbox');
  return { problem: done ? null : 'It is over already: there is nothing left to take on.' };
}

export default function Take({ loaderData: { problem, offer }, actionData }: Route.ComponentProps) {
  if (offer === null)
    return (
      <Doorway title="This link leads nowhere">
        <p className="mt-4 text-second" role="status">
          {problem}
        </p>
      </Doorway>
    );
  return <Offer offer={offer} problem={actionData?.problem ?? null} />;
}

type Offered = NonNullable<Route.ComponentProps['loaderData']['offer']>;

function Offer({
  offer: { name, place, said, open, episode, takenOn },
  problem,
}: {
  offer: Offered;
  problem: string | null;
}) {
  const busy = useNavigation().state !== 'idle';
  return (
    <Doorway title={said.lead}>
      {said.meaning === '' ? null : <p className="mt-3 font-serif text-story text-chestnut">{said.meaning}</p>}
      <p className="mt-4 text-second" role="status" data-standing>
        {problem ?? standingWords(open, episode, takenOn, place)}
      </p>
      {open && takenOn?.by !== name ? (
        <Form method="post" className="mt-5 flex flex-col items-start gap-4">
          <TextField
            label="A note for the others (may be empty)"
            name="note"
            className="w-full"
            maxLength={LONGEST_NOTE}
          />
          <Button type="submit" weight="strong" disabled={busy}>
            Take it on as {name}
          </Button>
        </Form>
      ) : null}
    </Doorway>
  );
}

function standingWords(
  open: boolean,
  episode: boolean,
  takenOn: { by: string; at: number } | null,
  place: Place,
): string {
  if (!episode) return 'What this mail told of was of one moment: there is nothing to take on.';
  if (!open) return 'It is over: there is nothing left to take on.';
  if (takenOn !== null) return `${takenOn.by} has it since ${formatInstant(takenOn.at, 'moment', place)}.`;
  return 'Nobody has it. Reminders go on until someone takes it on, or it is over.';
}
