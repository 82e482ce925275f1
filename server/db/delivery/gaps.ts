/** A number `g` that never came by any channel, of which no mail that came has said so. */
const UNEXPLAINED = `g.state = 'given up' AND g.number IS NOT NULL AND g.beside IS NULL
  AND NOT EXISTS (SELECT FROM delivery b WHERE b.beside = g.id AND b.state <> 'given up')
  AND (g.explained_by IS NULL OR EXISTS (SELECT FROM delivery x WHERE x.id = g.explained_by AND x.state = 'given up'))`;

/** More than anybody can miss of one report before somebody sees to it. */
const MOST = 5_000;

/** The numbers and reasons of those that a reader misses of a report, in SQL. */
export const gapsOf = (report: string, person: string): string => `
  SELECT g.number, g.reason FROM delivery g
  WHERE g.report_id = ${report} AND g.person_id = ${person} AND ${UNEXPLAINED} ORDER BY g.number DESC LIMIT ${MOST}`;

/** Has deliveries `n` (id, report, person) say what became of the numbers before them, in SQL. */
export const explainedBy = (deliveries: string): string => `
  UPDATE delivery g SET explained_by = n.id FROM ${deliveries} n
  WHERE g.report_id = n.report AND g.person_id = n.person AND ${UNEXPLAINED}`;
