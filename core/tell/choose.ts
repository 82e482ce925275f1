import type { Kept } from './reach';

/** Someone who may hear. */
interface Reader {
  id: number;
  /** Why she cannot be reached; null where she can. */
  kept: Kept | null;
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
 * Decides who hears of which alert through which report. A person reached by several reports hears of one alert
 * once: the report with the lowest number tells, the others stand back. What is for somebody who cannot be
 * reached is kept back.
 */
export function chooseAtOnce(reports: AtOnceReport[]): Telling[] {
  const told = new Map<string, number>();
  const tellings: Telling[] = [];
  for (const report of [...reports].sort((a, b) => a.id - b.id)) {
    for (const person of report.readers) {
      for (const alert of report.alerts) tellings.push(decide(report.id, person, alert, told));
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
