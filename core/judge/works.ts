import type { Clause } from './clause';
import { against } from './clauses/against';
import { before } from './clauses/before';
import { change } from './clauses/change';
import { grade } from './clauses/grade';
import { level } from './clauses/level';
import { move } from './clauses/move';
import { place } from './clauses/place';
import { absence, record } from './clauses/presence';
import { silence } from './clauses/silence';
import { state } from './clauses/state';
import { text } from './clauses/text';
import { unusual } from './clauses/unusual';
import type { Works } from './observation';

const WORKS = {
  level,
  crossing: level,
  move,
  before,
  change,
  state,
  grade,
  text,
  against,
  place,
  rank: place,
  unusual,
  absence,
  record,
  silence,
};

/** How a clause is judged; what it remembers is its own affair. */
export function worksOf(clause: Clause): Works<Clause, unknown> {
  return WORKS[clause.kind] as unknown as Works<Clause, unknown>;
}
