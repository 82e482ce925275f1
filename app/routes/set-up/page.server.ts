import { FORMAT_NAMES, openBody, sniffFormat } from '#core/read/body';
import { numbersOf } from '#core/read/picking';
import { wayNeeded } from '#core/read/ways';
import { formatInstant, type Place } from '#core/when/format';
import { listLookSteps } from '#server/db/looks';
import { PICTURE_WIDTH } from '#server/fetch/rendered/picture';
import type { PlanDraft } from '../../parts/plan/plan';
import { services } from '../../services.server';
import { hasSecret } from './actions.server';
import type { OpenDraft } from './draft.server';
import { withMarks } from './sealing.server';
import type { SourceFacts } from './source/source-step';
import type { Shown } from './value/shown-page';

/** What is known of the source of a draft. */
export async function sourceFacts({ draft, body, facts, site, looks, shown, text }: OpenDraft): Promise<SourceFacts> {
  const page = looks.find((look) => look.purpose === 'page');
  const plain = openBody(draft.body ?? '', 'html', 0);
  const comparable = plain.ok && plain.value.format === 'html' && sniffFormat(draft.body ?? '') === 'html' && shown !== null;
  return {
    address: draft.address, site, title: facts.title, locale: facts.locale, format: FORMAT_NAMES[body.format], isPage: body.format === 'html',
    fetchedAt: draft.fetchedAt, size: text.length, way: draft.way, request: withMarks(draft.request), hasSecret: await hasSecret(draft),
    needed: comparable && plain.value.format === 'html' ? wayNeeded(plain.value.document, shown.document) : null,
    rendering: page?.state ?? 'none', renderProblem: page?.problem ?? null,
    tried: await triedSteps(looks),
  }; // prettier-ignore
}

async function triedSteps(looks: OpenDraft['looks']): Promise<SourceFacts['tried']> {
  const look = looks.find((each) => each.purpose === 'steps');
  if (look === undefined) return null;
  return { lookId: look.id, pending: look.state === 'asked', problem: look.problem, steps: await listLookSteps(services().pool, look.id) };
}

/** The page of a draft as the browser showed it, to be pointed at. */
export function shownPage({ looks, shown }: OpenDraft, place: Place): Shown {
  const asked = looks.find((look) => look.purpose === 'page');
  if (asked?.state === 'asked' || shown === null) {
    return { state: asked?.state ?? 'none', problem: asked?.problem ?? null, lookId: null, width: 0, height: 0, boxes: [], takenWords: null };
  }
  const { look } = shown;
  const taken = look.takenAt === null ? '' : `Seen ${formatInstant(look.takenAt, 'exact', place)}, rendered, ${PICTURE_WIDTH} wide`;
  return {
    state: 'done',
    problem: null,
    lookId: look.id,
    width: PICTURE_WIDTH,
    height: look.height ?? 1,
    boxes: look.boxes ?? [],
    takenWords: taken,
  };
}

/** The numbers of the elements on the shown page that a plan reads records from. */
export function rowsOn({ shown }: OpenDraft, { records }: PlanDraft): number[] {
  return shown === null || records.from !== 'rows' ? [] : numbersOf(shown.document, records.rows);
}
