import { foldText } from '../value/parse';

/** Somebody as she was written into a line of addresses. */
export interface WrittenPerson {
  name: string;
  email: string;
}

/** What a pasted text held: people, and what is none, as it was written. */
export interface PastedPeople {
  people: WrittenPerson[];
  strange: string[];
}

/** So many are taken at once. */
export const MOST_PASTED = 200;
const LONGEST_ADDRESS = 254;
const LONGEST_NAME = 100;

/**
 * A dot-atom before the @ (RFC 5322, 3.2.3), labels with a dot between them after it; quoted local parts and address
 * literals are refused.
 */
const ADDRESS =
  /^[\p{L}\p{N}!#$%&'*+/=?^_`{|}~-]+(?:\.[\p{L}\p{N}!#$%&'*+/=?^_`{|}~-]+)*@(?:[\p{L}\p{N}](?:[\p{L}\p{N}-]{0,61}[\p{L}\p{N}])?\.)+[\p{L}\p{N}](?:[\p{L}\p{N}-]{0,61}[\p{L}\p{N}])?$/u;

/** Whether a text is a mail address to which something can be sent. */
export const isAddress = (text: string): boolean =>
  text.length <= LONGEST_ADDRESS && ADDRESS.test(text) && text.indexOf('@') <= 64;

/**
 * Reads addresses that were pasted with commas, semicolons or lines between them, each with a name or none: `Ravi Oduya
 * <ravi@heatherlow.example>; "Aske, Tom" <tom@heatherlow.example>`. Written twice, in whatever letters, is there once.
 * Beyond `MOST_PASTED` the rest is strange.
 */
export function readAddresses(text: string): PastedPeople {
  const found = new Map<string, WrittenPerson>();
  const strange: string[] = [];
  for (const part of partsOf(text)) {
    const person = readOne(part);
    if (person === null || (found.size >= MOST_PASTED && !found.has(person.email)))
      strange.push(part.slice(0, LONGEST_ADDRESS));
    else if (!found.has(person.email)) found.set(person.email, person);
  }
  return { people: [...found.values()], strange };
}

/**
 * Cut at commas, semicolons and lines, but not within quotes or angle brackets. What never ends of these ends with its
 * line.
 */
function partsOf(text: string): string[] {
  return text.split(/[\r\n\u2028\u2029]+/).flatMap((line) => {
    const parts: string[] = [];
    let [begun, closing] = [0, ''];
    for (let at = 0; at <= line.length; at += 1) {
      const sign = line.charAt(at);
      if (closing !== '' && at < line.length) {
        if (sign === closing) closing = '';
      } else if (sign === '"') closing = '"';
      else if (sign === '<') closing = '>';
      else if (sign === ',' || sign === ';' || sign === '') {
        parts.push(foldText(line.slice(begun, at)));
        begun = at + 1;
      }
    }
    return parts.filter((part) => part !== '');
  });
}

const LONGEST_PART = LONGEST_ADDRESS + LONGEST_NAME + 20;

function readOne(part: string): WrittenPerson | null {
  if (part.length > LONGEST_PART) return null;
  const named = /^(.*?)\s*<([^<>]*)>$/.exec(part);
  const email = (named?.[2] ?? part)
    .trim()
    .replace(/^mailto:/i, '')
    .toLowerCase();
  if (!isAddress(email)) return null;
  const said = (named?.[1] ?? '').replace(/^"(.*)"$/, '$1').trim();
  return { name: (turned(said) || nameOf(email)).slice(0, LONGEST_NAME), email };
}

/** `Aske, Tom` is Tom Aske. */
function turned(name: string): string {
  const [, last, first] = /^([^,]+),\s*([^,]+)$/.exec(name) ?? [];
  return last === undefined || first === undefined ? name : `${first} ${last}`;
}

/** `ravi.oduya@…` is Ravi Oduya until somebody says otherwise. */
function nameOf(email: string): string {
  const words =
    (email.split('@')[0] ?? '')
      .split('+')[0]
      ?.split(/[._-]+/)
      .filter(Boolean) ?? [];
  return words.map((word) => word.charAt(0).toUpperCase() + word.slice(1)).join(' ') || email;
}
