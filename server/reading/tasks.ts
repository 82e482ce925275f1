import type { Item } from '#core/items/item';
import { readSheet } from '#core/items/sheet';
import { openBody, type Body } from '#core/read/body';
import { tryLocator } from '#core/read/candidates';
import { formatOf, type FieldType, type WatchDefinition } from '#core/read/definition';
import { latestAmong, type LatestValue } from '#core/read/formula';
import { withFrames } from '#core/read/frame/take';
import { failedGuard, describeGuardFailure, type Guard } from '#core/read/guard';
import { selectElements, type Document } from '#core/read/html';
import { offerOf, openAny, type OpenedBody } from '#core/read/inspect/offer';
import { mendingShown } from '#core/read/inspect/mending';
import { presentIn, previewRecords, trialOn, trialsHere, volatileBetween } from '#core/read/inspect/trial';
import { pressableAt, wallOn, type Box } from '#core/read/inspect/wall';
import type { Locator } from '#core/read/locator';
import type { FormerRecord } from '#core/read/mend/mending';
import { listingOfPicks, numberFound, numbersOf, pickAt } from '#core/read/picking';
import { readBody, seemsInstead } from '#core/read/read';
import { searchFor } from '#core/read/pattern';
import { wayNeeded } from '#core/read/ways';
import { fail, ok, type Result } from '#core/result';
import type { WatchRead } from '#core/judge/watch';
import type { ExchangeLine } from '#core/plan/exchange';
import type { Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import { rehearseCourse } from '#core/judge/rehearse';
import type { IsRelated } from '#core/judge/related';
import type { RuleDefinition } from '#core/judge/rule';
import { digestMail } from '#core/tell/edition/digest-mail';
import type { DigestMail } from '#core/tell/edition/digest';
import type { Value } from '#core/value/value';
import robotsParser from 'robots-parser';
import { DOCUMENT_PART } from './parts';
import { documentLines, hereIn, withPlainAddress } from '../files/watch-document';
import { openDocument, watchesFrom, type ReadDocument } from '../shapes/exchange';

// All that is made of what comes from outside, or of what a person typed to find things in it. Each task is pure, and
// runs in a thread that can be ended: none of this may run where others wait.

/** A text that tasks work on, by a key that says which it is; it is handed to a thread once. */
export interface TextBody {
  key: string;
  text: string;
}

/** A body by its key, with when it came, which relative times count from. */
export interface BodyAsked {
  key: string;
  receivedAt: Instant;
}

/** The bodies that a thread holds, opened. */
export interface Bodies {
  text: (key: string) => string;
  /** Opened in whatever format it seems to be in, once. */
  any: (body: BodyAsked) => OpenedBody;
  /** Opened in one format, once. */
  as: (body: BodyAsked, format: Body['format']) => Result<Body, string>;
  /** Worked out once for a body. */
  once: <T>(body: BodyAsked, what: string, work: () => T) => T;
}

/** A definition read on a body, with what it needs beside. */
export interface ReadAsked {
  body: BodyAsked;
  definition: WatchDefinition;
  /** The address after redirects. */
  address: string | null;
  latest: LatestValue[];
}

/** A rule with the runs that are pretended for it, and what stands beside its record. */
interface Rehearsed {
  rule: RuleDefinition;
  course: readonly { at: Instant; values: Readonly<Record<string, Value>> }[];
  intervalMs: number;
  beside: IsRelated | undefined;
}

/** Where else a definition is tried. */
interface Elsewhere {
  where: string;
  body: BodyAsked;
  address: string | null;
}

const pageOf = (bodies: Bodies, body: BodyAsked | null): Document | null => {
  const opened = body === null ? null : bodies.any(body).body;
  return opened?.format === 'html' ? opened.document : null;
};
const contextOf = ({ address, latest }: Pick<ReadAsked, 'address' | 'latest'>) => ({
  address,
  latest: latestAmong(latest),
});

/** Every task by its name. */
export const TASKS = {
  /** Reads a watch. */
  read: (bodies: Bodies, asked: ReadAsked): WatchRead => {
    const opened = bodies.as(asked.body, formatOf(asked.definition.records));
    if (!opened.ok) return { reading: fail({ reason: 'another format', said: opened.error }), seems: null };
    const reading = readBody(opened.value, asked.definition, contextOf(asked));
    const lacks =
      reading.ok && reading.value.records.some((record) => record.fields.some((field) => !field.outcome.ok));
    return { reading, seems: lacks ? seemsInstead(opened.value) : null };
  },
  /** What a body offers to be watched. */
  offer: (bodies: Bodies, asked: { body: BodyAsked }) =>
    bodies.once(asked.body, 'offer', () => offerOf(bodies.any(asked.body))),
  /** A definition with what stands around its values on a body, where it has none of that yet. */
  frame: (bodies: Bodies, asked: { body: BodyAsked; definition: WatchDefinition }) =>
    withFrames(bodies.any(asked.body).body, asked.definition),
  /** What a definition reads on the body of a draft. */
  present: (bodies: Bodies, asked: ReadAsked) =>
    presentIn(bodies.any(asked.body).body, asked.definition, contextOf(asked)),
  /** A page of the records that a definition reads. */
  preview: (bodies: Bodies, asked: ReadAsked & { page: number; place: Place }) =>
    previewRecords(bodies.any(asked.body).body, asked.definition, contextOf(asked), asked.page, asked.place),
  /** A definition tried here, altered, blanked. */
  'try here': (bodies: Bodies, asked: ReadAsked) =>
    trialsHere(bodies.any(asked.body).body, asked.definition, contextOf(asked)),
  /** A definition tried on another body. */
  'try elsewhere': (bodies: Bodies, asked: Pick<ReadAsked, 'definition' | 'latest'> & Elsewhere) => {
    const { body, problem } = bodies.any(asked.body);
    if (problem !== null) return { where: asked.where, pending: false, values: [], note: problem };
    return trialOn(asked.where, body, asked.definition, contextOf(asked));
  },
  /** What moves by itself between two fetches of a page. */
  volatile: (bodies: Bodies, asked: { body: BodyAsked; again: BodyAsked; definition: WatchDefinition }) => {
    const [first, second] = [pageOf(bodies, asked.body), pageOf(bodies, asked.again)];
    return first === null || second === null ? {} : volatileBetween(first, second, asked.definition);
  },
  /** How a watch that is not read could be again. */
  mend: (bodies: Bodies, asked: Omit<ReadAsked, 'latest'> & { shown: BodyAsked | null; known: FormerRecord[] }) =>
    mendingShown(
      bodies.any(asked.body).body,
      pageOf(bodies, asked.shown),
      asked.definition,
      asked.known,
      asked.address,
    ),
  /** Whether a page has to be rendered, by what a plain fetch lacks. */
  'way needed': (bodies: Bodies, asked: { plain: BodyAsked; shown: BodyAsked }) => {
    const [plain, shown] = [pageOf(bodies, asked.plain), pageOf(bodies, asked.shown)];
    return plain === null || shown === null || plain.children.length === 0 ? null : wayNeeded(plain, shown);
  },
  /** A locator of her own on a page. */
  'try locator': (bodies: Bodies, asked: { body: BodyAsked; locator: Locator; type: FieldType }) => {
    const page = pageOf(bodies, asked.body);
    return page === null
      ? { count: 0, samples: [], suggestion: null, problem: 'This source is no page.' }
      : tryLocator(page, asked.locator, asked.type);
  },
  /** A place that was pointed at on the picture of a page. */
  pick: (bodies: Bodies, asked: { shown: BodyAsked; read: BodyAsked; n: number; type: FieldType | null }) => {
    const [shown, read] = [pageOf(bodies, asked.shown), pageOf(bodies, asked.read)];
    if (shown === null || read === null) return fail('There is no picture of this page to pick on.');
    return pickAt(shown, read, asked.n, asked.type);
  },
  /** What stands before a page as it was shown. */
  wall: (bodies: Bodies, asked: { shown: BodyAsked; boxes: Box[] }) =>
    bodies.once(asked.shown, 'wall', () => {
      const shown = pageOf(bodies, asked.shown);
      return shown === null ? null : wallOn(shown, asked.boxes);
    }),
  /** What would be pressed at a place on the picture of a page. */
  press: (bodies: Bodies, asked: { shown: BodyAsked; n: number }) => {
    const shown = pageOf(bodies, asked.shown);
    return shown === null ? null : pressableAt(shown, asked.n);
  },
  /** The records that several places have in common. */
  'pick records': (bodies: Bodies, asked: { shown: BodyAsked; numbers: number[]; not: number[] }) => {
    const shown = pageOf(bodies, asked.shown);
    return shown === null
      ? fail('There is no picture of this page to pick on.')
      : listingOfPicks(shown, asked.numbers, asked.not);
  },
  /** The number of the one element that some ways find. */
  'find place': (bodies: Bodies, asked: { body: BodyAsked; locators: Locator[] }) => {
    const page = pageOf(bodies, asked.body);
    return page === null ? null : numberFound(page, asked.locators);
  },
  /** The numbers of the elements that records are read from. */
  'find rows': (bodies: Bodies, asked: { body: BodyAsked; rows: string }) => {
    const page = pageOf(bodies, asked.body);
    return page === null ? [] : numbersOf(page, asked.rows);
  },
  /** Where a link of a page leads. */
  'next link': (bodies: Bodies, asked: { body: BodyAsked; selector: string }) => {
    const page = pageOf(bodies, asked.body);
    const found = page === null ? null : selectElements(page, asked.selector);
    return (found?.ok ? found.value[0]?.attribs.href : undefined) ?? null;
  },
  /** Whether a page passes a guard; null when it does, else the sentence that says why not. */
  guard: (bodies: Bodies, asked: { body: BodyAsked; guard: Guard; address: string }) => {
    const opened = bodies.as(asked.body, 'html');
    const failure = opened.ok
      ? failedGuard([asked.guard], { body: opened.value, address: asked.address, records: 1 })
      : null;
    return failure === null ? null : describeGuardFailure(failure);
  },
  /** Whether a site's rules for programs (RFC 9309) let one fetch an address. */
  robots: (bodies: Bodies, asked: { body: BodyAsked; at: string; address: string; agent: string }) => {
    const rules = bodies.once(asked.body, 'robots', () => robotsParser(asked.at, bodies.text(asked.body.key)));
    return rules.isAllowed(asked.address, asked.agent) !== false;
  },
  /** Whether a pattern of a rule matches somewhere in a text. */
  search: (bodies: Bodies, { key, pattern }: { key: string; pattern: string }) =>
    searchFor({ pattern, text: bodies.text(key) }),
  /** What a sheet of items would do, line by line. */
  sheet: (
    bodies: Bodies,
    { key, known, channels, locale }: { key: string; known: Item[]; channels: string[]; locale: string },
  ) => readSheet(bodies.text(key), known, channels, locale),
  /** The first turn of a pretended course that tells somebody. */
  rehearse: (_: Bodies, { rule, course, intervalMs, beside }: Rehearsed) =>
    rehearseCourse(rule, course, intervalMs, beside).find(({ told }) => told) ?? null,
  /** The mail of an edition that is looked at. */
  'edition mail': (_: Bodies, mail: DigestMail) => digestMail(mail),
  /** How many watches a document holds. */
  document: (bodies: Bodies, { key }: { key: string }) => {
    const opened = documentIn(bodies, key);
    return opened.ok ? ok(opened.value.found.length) : opened;
  },
  /** By what some watches of a document are known. */
  'document names': (bodies: Bodies, { key, from }: { key: string; from: number }) =>
    documentPart(bodies, key, from).watches.map(({ number, address, reads }) => ({
      number,
      address,
      subject: reads.subject,
    })),
  /**
   * What some lines of a document would do, held against what is here; of no lines its watches are looked at, ahead of
   * the lines, which need them all: each step has a deadline of its own.
   */
  'document lines': (
    bodies: Bodies,
    { key, here, from, ahead }: { key: string; here: string; from: number; ahead: boolean },
  ): ExchangeLine[] => {
    if (ahead) {
      documentPart(bodies, key, from);
      return [];
    }
    const lines = bodies.once({ key, receivedAt: 0 }, `lines ${here}`, () =>
      documentLines(wholeDocument(bodies, key), hereIn(bodies.text(here))),
    );
    return lines.slice(from, from + DOCUMENT_PART);
  },
};

const documentIn = (bodies: Bodies, key: string) =>
  bodies.once({ key, receivedAt: 0 }, 'document', () => openDocument(bodies.text(key)));

function documentPart(bodies: Bodies, key: string, from: number) {
  return bodies.once({ key, receivedAt: 0 }, `document from ${from}`, () => {
    const opened = documentIn(bodies, key);
    if (!opened.ok) return { watches: [], refused: [] };
    const { watches, refused } = watchesFrom(opened.value, from, DOCUMENT_PART);
    return { watches: watches.map(withPlainAddress), refused };
  });
}

function wholeDocument(bodies: Bodies, key: string): ReadDocument {
  const opened = documentIn(bodies, key);
  if (!opened.ok) throw new Error(opened.error);
  const { frame, found } = opened.value;
  const parts = Array.from({ length: Math.ceil(found.length / DOCUMENT_PART) }, (_, at) =>
    documentPart(bodies, key, at * DOCUMENT_PART),
  );
  return {
    document: { ...frame, watches: parts.flatMap(({ watches }) => watches) },
    refused: parts.flatMap(({ refused }) => refused),
  };
}

/** The name of a task. */
export type TaskName = keyof typeof TASKS;
/** What a task is asked. */
export type Asked<Name extends TaskName> = Parameters<(typeof TASKS)[Name]>[1];
/** What a task brings. */
export type Done<Name extends TaskName> = ReturnType<(typeof TASKS)[Name]>;

/** How a body is opened in a thread. */
export const OPENING = {
  any: (text: string, receivedAt: Instant) => openAny(text, receivedAt),
  as: (text: string, format: Body['format'], receivedAt: Instant) => openBody(text, format, receivedAt),
};
