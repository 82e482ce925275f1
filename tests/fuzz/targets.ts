import { fill, OUR_WORDS, wordsFault } from '#core/tell/edition/template';
import { readAddresses } from '#core/plan/addresses';
import { openAny, offerOf } from '#core/read/inspect/offer';
import { searchFor } from '#core/read/pattern';
import { wordsChanged, textDifference } from '#core/compare/text';
import { readSheet } from '#core/items/sheet';
import { blankClause } from '#core/judge/draft/clause';
import { BLANK_RULE, toCondition } from '#core/plan/rule-draft';
import { Mailer } from '#server/deliver/mail';
import { readServer } from '#server/deliver/mail-server';
import { isPublic } from '#server/fetch/addresses';
import { webAddress } from '#server/fetch/web-address';
import { readDocument } from '#server/shapes/exchange';
import { readLocator, readPlan, readRequest, readRule, readType } from '#server/shapes/plan';
import { openRaw } from '../support/raw';
import { SAMPLES } from '../support/mutated';
import { documentOf } from '../support/watch-document';
import { loopback } from '../support/mail-servers';

// What strangers send and visitors type, by the border it comes in at. A target takes any text, and says by an error
// what no text may bring about.

/** A border, with texts that come in at it every day. */
export interface Target {
  name: string;
  seeds: string[];
  /** Signs and words that mean something there. */
  words: string[];
  try: (text: string) => void | Promise<void>;
}

const NOW = 1_800_000_000_000;
const HERE = { locale: 'en-GB', zone: 'Europe/London' };
const MAIL_MS = 300;

const body = (name: string, seeds: string[], words: string[]): Target => ({
  name,
  seeds,
  words,
  try: (text) => {
    const offer = offerOf(openAny(text, NOW));
    if (offer.candidates.length > 100) throw new Error(`${offer.candidates.length} candidates`);
  },
});

const clauses = (['falls below', 'rises above', 'changes'] as const).map((verb) => blankClause('price', verb));
const RULES = clauses.map((clause) =>
  JSON.stringify({ ...BLANK_RULE, clauses: [clause, ...clauses], audiences: ['list:1'], whenAlreadyMet: 'wait' }),
);
const TOLD = { when: { kind: 'change', asked: { field: 'price' } }, whenAlreadyMet: 'wait', tells: [] };
const DIALOGUE = ['220 here\r\n', '250 here\r\n', '250 ok\r\n', '250 ok\r\n', '354 go on\r\n', '250 taken\r\n'].join(
  '|',
);

/** Whoever reads a shape takes any text, and never throws. */
const shape = (text: string): void => {
  const rule = readRule(text);
  if (rule.ok) toCondition(rule.value, { present: {}, fields: [], ...HERE });
  readPlan(text);
  readType(text);
  readRequest(text);
};

export const TARGETS: Target[] = [
  body(
    'pages',
    [SAMPLES.html],
    ['<td>', '</td>', '<table>', 'itemprop="price"', '£', '<script type="application/ld+json">'],
  ),
  body(
    'feeds',
    [SAMPLES.feed, SAMPLES.xml],
    ['<entry>', '<![CDATA[', ']]>', '<!ENTITY', '&lt;', '<item>', 'xmlns:a="b"'],
  ),
  body(
    'data',
    [SAMPLES.json, SAMPLES.csv, SAMPLES.metrics, SAMPLES.senml],
    ['{', '}', '[', ',', '"', '1e999', '# TYPE', '\n'],
  ),
  {
    name: 'rules',
    seeds: RULES,
    words: ['"all"', '"kind"', '{', '[', '1e400', '"limit"', 'null'],
    try: shape,
  },
  {
    name: 'ways',
    seeds: ['{"way":"css","selector":".price"}', '{"way":"xpath","path":"//td[2]"}'],
    words: ['"way"', '"pattern"', ':has(', '//', '[', '*', '(', '{1000}'],
    try: (text) => void readLocator(text),
  },
  {
    name: 'documents',
    seeds: [documentOf(1, [TOLD])],
    words: ['"watches"', '[', '{', 'null', '__proto__', '"rules"', '1e9'],
    try: (text) => void readDocument(text),
  },
  {
    name: 'sheets',
    seeds: ['reference,name,cost\r\nHL-1,Smoker,22.00 GBP\r\n'],
    words: [',', ';', '"', '\r\n', '=', 'GBP', '/', '２'],
    try: (text) => void readSheet(text, [], ['Wholesale'], 'en-GB'),
  },
  {
    name: 'templates',
    seeds: ['{{ record }} is {{ value | upcase }}', '{% if change %}moved{% endif %}'],
    words: ['{{', '}}', '{%', '%}', '|', 'where_exp', 'for', '..', 'append', "'"],
    try: (text) => {
      wordsFault({ ...OUR_WORDS, subject: text });
      const filled = fill(text, { record: 'Smoker', value: '£22.00', change: 1 });
      if (filled.ok && filled.value.length > 1_000_000) throw new Error('a template without a bound');
    },
  },
  {
    name: 'patterns',
    seeds: ['£([\\d.]+)', '((a?){20})x', '(.*)*x'],
    words: ['(', ')', '*', '+', '{1000}', '[', ']', '\\p{L}', '|', '?', '^', '(?i)'],
    try: (text) => void searchFor({ pattern: text, text: `${'a'.repeat(500)} £22.00` }),
  },
  {
    name: 'texts',
    seeds: ['bees in the lime trees|bees on the lime tree'],
    words: ['|', ' ', 'bees', '山', '🐝', '\u0301', '\ud800'],
    try: (text) => {
      const [from = '', to = ''] = text.split('|');
      textDifference(from, to);
      if (wordsChanged(from, to) < 0) throw new Error('fewer words than none');
    },
  },
  {
    name: 'addresses',
    seeds: ['http://shop.example:80/p?x=1#y', 'Ravi <ravi@heatherlow.example>; tom@heatherlow.example', '10.0.0.1'],
    words: ['@', ':', '//', '[::1]', '%00', '..', '0x7f.1', '\\', '<', '>', ';'],
    try: (text) => {
      const address = webAddress(text);
      if (address !== null && !/^https?:$/.test(address.protocol)) throw new Error(`${address.protocol} is no way`);
      if (readAddresses(text).people.length > 200) throw new Error('more people than may be');
      isPublic(text);
      readServer(text, null);
    },
  },
  {
    name: 'mail answers',
    seeds: [DIALOGUE, DIALOGUE.replace('250 taken', '451 later'), '220 a|250-a\r\n250 STARTTLS\r\n'],
    words: ['|', '250', '-', '\r\n', '421', '\0', '354 ', '220 '],
    try: mailAnswered,
  },
];

/** A server that says the pieces of a text one after another, whatever it hears. */
async function mailAnswered(text: string): Promise<void> {
  const pieces = text.split('|').slice(0, 12);
  const raw = await openRaw(null);
  raw.say((socket) => {
    let at = 0;
    const next = () => {
      const piece = pieces[at++];
      if (piece === undefined) socket.end();
      else socket.write(piece);
    };
    socket.on('data', next).on('error', () => undefined);
    next();
  });
  const mailer = new Mailer({ from: 'shrike@heatherlow.example', servers: [loopback(raw.port)], signing: null });
  const mail = {
    messageId: '<1@heatherlow.example>',
    to: { name: 'R', address: 'r@heatherlow.example' },
    subject: 'x',
  };
  await mailer.send(
    { ...mail, html: null, text: 'x', leave: null, list: null, thread: [], files: [], sentAgain: false },
    MAIL_MS,
  );
  mailer.close();
  await raw.close();
}
