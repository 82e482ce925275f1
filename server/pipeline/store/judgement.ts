import type { SeriesId } from '#core/id';
import type { Statement } from '../../db/base/pool';
import { mostVerdictRows, storeVerdicts, type JudgedAt, type RaisedAlert } from './news';
import { countOpened, moveEpisodes, storeStates, type WatchVerdict } from './states';

/** How many numbers what came of judging needs at most: episodes, verdicts and alerts. */
export const countJudgement = (verdicts: WatchVerdict[]): number => countOpened(verdicts) + mostVerdictRows(verdicts);

/** What a run knows that its verdicts lean on: the changes that it found, and the series that are new with it. */
export interface FoundInRun {
  changeOf: ReadonlyMap<string, number>;
  seriesOf: ReadonlyMap<string, SeriesId>;
}

export const NOTHING_FOUND: FoundInRun = { changeOf: new Map(), seriesOf: new Map() };

/** Keeps all that judging came to: what rules remember, their episodes, their verdicts, and what they have to tell. */
export function storeJudgement(
  judged: JudgedAt,
  verdicts: WatchVerdict[],
  ids: number[],
  found: FoundInRun,
): { statements: Statement[]; alerts: RaisedAlert[] } {
  const given = [...ids];
  const episodes = moveEpisodes(verdicts, given.splice(0, countOpened(verdicts)));
  const told = storeVerdicts(judged, verdicts, given, { ...found, episodeOf: episodes.episodeOf });
  return {
    statements: [...storeStates(judged.at, verdicts), ...episodes.statements, ...told.statements],
    alerts: told.alerts,
  };
}
