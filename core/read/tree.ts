import { DomHandler, type Document } from 'domhandler';
import { Parser } from 'htmlparser2';
import { fail, ok, type Result } from '../result';

/**
 * Bounds on the tree of a body. A browser nests 512 levels, and a table of 50,000 rows of five cells has 300,000
 * elements.
 */
const MOST_ELEMENTS = 400_000;
const DEEPEST = 512;
const MOST_ATTRIBUTES = 1_000_000;

class Refused extends Error {}

/** Builds the tree, and gives up as soon as it is too large or too deep: what comes after costs nothing. */
class BoundedHandler extends DomHandler {
  #elements = 0;
  #attributes = 0;
  #depth = 0;
  #comments = 0;

  override onopentag(name: string, attributes: Record<string, string>): void {
    this.#elements += 1;
    this.#depth += 1;
    this.#attributes += Object.keys(attributes).length;
    if (this.#elements > MOST_ELEMENTS)
      throw new Refused(`This document has more than ${MOST_ELEMENTS.toLocaleString('en')} elements.`);
    if (this.#depth > DEEPEST) throw new Refused(`This document is nested more than ${DEEPEST} levels deep.`);
    if (this.#attributes > MOST_ATTRIBUTES)
      throw new Refused(`This document has more than ${MOST_ATTRIBUTES.toLocaleString('en')} attributes.`);
    super.onopentag(name, attributes);
  }

  override onclosetag(): void {
    this.#depth -= 1;
    super.onclosetag();
  }

  override oncomment(text: string): void {
    this.#comments += 1;
    if (this.#comments > MOST_ELEMENTS)
      throw new Refused(`This document has more than ${MOST_ELEMENTS.toLocaleString('en')} comments.`);
    super.oncomment(text);
  }
}

/**
 * Parses markup leniently, as it came; nothing in it is run, no DTD is read, no entity of its own is expanded. The
 * error is a sentence: more than 400,000 elements, or nested more than 512 levels deep.
 */
export function parseTree(text: string, markup: 'html' | 'xml'): Result<Document, string> {
  const handler = new BoundedHandler();
  const html = markup === 'html';
  const parser = new Parser(handler, {
    decodeEntities: true,
    xmlMode: !html,
    lowerCaseTags: html,
    lowerCaseAttributeNames: html,
  });
  try {
    parser.end(text);
    return ok(handler.root);
  } catch (error) {
    if (error instanceof Refused) return fail(error.message);
    throw error;
  }
}
