import { FORMAT_NAMES } from '#core/read/body';
import { formatInstant, type Place } from '#core/when/format';
import type { Wall } from '#core/read/inspect/wall';
import type { WayNeeded } from '#core/read/ways';
import { listPreviewSteps } from '#server/db/source/previews';
import { PICTURE_WIDTH } from '#server/fetch/rendered/picture';
import { describeStep } from '#server/fetch/rendered/steps';
import type { PlanDraft } from '#core/plan/plan';
import { services } from '../../../services.server';
import { hasSecret } from './actions.server';
import { asBody, type OpenDraft } from './draft.server';
import { withMarks } from './sealing.server';
import type { SourceFacts } from './source/facts';
import type { Marked } from './value/picture';
import type { Shown } from './value/shown-page';

/** What is known of the source of a draft. */
export async function sourceFacts(open: OpenDraft): Promise<SourceFacts> {
  const { draft, offer, site, looks, text } = open;
  const page = looks.find((look) => look.purpose === 'page');
  const { facts, format } = offer;
  return {
    address: draft.address,
    site,
    title: facts.title,
    locale: facts.locale,
    format: FORMAT_NAMES[format],
    isPage: format === 'html',
    fetchedAt: draft.fetchedAt,
    size: text.text.length,
    way: draft.way,
    request: withMarks(draft.request),
    hasSecret: await hasSecret(draft),
    needed: await wayNeeded(open),
    steps: (draft.request.steps ?? []).map(describeStep),
    rendering: page?.state ?? 'none',
    renderProblem: page?.problem ?? null,
    tried: await triedSteps(looks),
  };
}

/** Whether the page has to be rendered, where both ways have brought it. */
async function wayNeeded({ draft, shown }: OpenDraft): Promise<WayNeeded | null> {
  if (shown === null || draft.body === null) return null;
  const plain = asBody(draft.body, draft.fetchedAt ?? 0);
  const done = await services().reading.run('way needed', { plain: plain.body, shown: shown.body }, [
    plain.text,
    shown.text,
  ]);
  return done.ok ? done.value : null;
}

async function triedSteps(looks: OpenDraft['looks']): Promise<SourceFacts['tried']> {
  const look = looks.find((each) => each.purpose === 'steps');
  if (look === undefined) return null;
  return {
    lookId: look.id,
    pending: look.state === 'asked',
    problem: look.problem,
    steps: await listPreviewSteps(services().pool, look.id),
  };
}

/** The page of a draft as the browser showed it, to be pointed at. */
export function shownPage({ looks, shown }: OpenDraft, place: Place): Shown {
  const asked = looks.find((look) => look.purpose === 'page');
  if (asked?.state === 'asked' || shown === null) {
    return {
      state: asked?.state ?? 'none',
      problem: asked?.problem ?? null,
      lookId: null,
      width: 0,
      height: 0,
      boxes: [],
      takenWords: null,
    };
  }
  const { look } = shown;
  const taken =
    look.takenAt === null ? '' : `Seen ${formatInstant(look.takenAt, 'exact', place)}, rendered, ${PICTURE_WIDTH} wide`;
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

/** What stands before the page as it was shown. */
export async function wallBefore({ shown }: OpenDraft): Promise<Wall | null> {
  if (shown === null) return null;
  const done = await services().reading.run('wall', { shown: shown.body, boxes: shown.look.boxes ?? [] }, [shown.text]);
  return done.ok ? done.value : null;
}

/** Where on the shown page the fields stand that were taken. */
export async function takenOn({ shown }: OpenDraft, { records, fields }: PlanDraft): Promise<Marked[]> {
  if (shown === null || records.from !== 'page') return [];
  const found = fields
    .filter(
      ({ type, locators }) =>
        type.kind !== 'computed' && type.kind !== 'phrase' && type.kind !== 'text' && locators.length > 0,
    )
    .slice(0, MOST_MARKED)
    .map(async ({ label, locators }) => {
      const done = await services().reading.run('find place', { body: shown.body, locators }, [shown.text]);
      return done.ok && done.value !== null ? [{ n: done.value, label }] : [];
    });
  return (await Promise.all(found)).flat();
}

const MOST_MARKED = 20;

/** The numbers of the elements on the shown page that a plan reads records from. */
export async function rowsOn({ shown }: OpenDraft, { records }: PlanDraft): Promise<number[]> {
  if (shown === null || records.from !== 'rows') return [];
  const done = await services().reading.run('find rows', { body: shown.body, rows: records.rows }, [shown.text]);
  return done.ok ? done.value : [];
}
