import type { Suppression } from './reach';

/** Someone who may hear. */
interface Reader {
  id: number;
  /** Why she cannot be reached; null where she can. */
  kept: Suppression | null;
}

/** A report that tells at once, with those who read it and the alerts of this run that it takes. */
export interface AtOnceReport {
  id: number;
  readers: Reader[];
  alerts: number[];
}

/** One decision: whether a person hears of an alert through a report, or why not. */
export interface Telling {
  report: number;
  person: number;
  alert: number;
  decision: 'told' | 'stood back' | 'kept back';
  /** The report that tells instead, when this one stood back. */
  inFavourOf: number | null;
}

/**
 * Decides who hears of which alert through which report, for each of what these tell in its place. A person reached by
 * several reports, or by several editions of one, hears of one alert once: the report with the lowest number tells, the
 * others stand back. What is for somebody who cannot be reached is kept back. `before` says through which report
 * somebody heard of an alert earlier, by `person alert`.
 */
export function chooseAtOnce(reports: AtOnceReport[], before: ReadonlyMap<string, number> = new Map()): Telling[][] {
  const told = new Map(before);
  const decided = new Set<string>();
  const tellings = reports.map((): Telling[] => []);
  const inOrder = reports
    .map((report, place) => ({ report, place }))
    .sort((a, b) => a.report.id - b.report.id || a.place - b.place);
  for (const { report, place } of inOrder) {
    const pairs = report.readers.flatMap((person) => report.alerts.map((alert) => ({ person, alert })));
    for (const { person, alert } of pairs) {
      const once = `${report.id} ${person.id} ${alert}`;
      if (!decided.has(once)) tellings[place]?.push(decide(report.id, person, alert, told));
      decided.add(once);
    }
  }
  return tellings;
}

function decide(report: number, person: Reader, alert: number, told: Map<string, number>): Telling {
  const base = { report, person: person.id, alert };
  if (person.kept !== null) return { ...base, decision: 'kept back', inFavourOf: null };
  const key = `${person.id} ${alert}`;
  const earlier = told.get(key);
  if (earlier !== undefined) return { ...base, decision: 'stood back', inFavourOf: earlier };
  told.set(key, report);
  return { ...base, decision: 'told', inFavourOf: null };
}
