import { tries } from '#tests/support/search';
import type { AlertId, ChangeId, ItemId, RecordId, RuleId, SiteId, WatchId } from '#core/id';
import ExcelJS from 'exceljs';
import { simpleParser } from 'mailparser';
import Papa from 'papaparse';
import { parse, type DefaultTreeAdapterTypes } from 'parse5';
import { parseXmlDocument } from 'slimdom';
import { describe, expect, it } from 'vitest';
import { compareReadings } from '#core/compare/compare';
import { quotaMail } from '#core/tell/quota';
import { atomFeed } from '#core/tell/atom';
import { cloudEvent, editionFacts } from '#core/tell/cloud-event';
import { confirmMail } from '#core/tell/confirm-mail';
import { digestMail, digestParts } from '#core/tell/edition/digest-mail';
import { composeEdition } from '#core/tell/edition/document';
import { linesOf } from '#core/tell/edition/lines';
import type { Move } from '#core/tell/edition/move';
import { withoutRenderedImages } from '#core/tell/rendered-image';
import { inviteMail } from '#core/tell/invite-mail';
import { deferredMail } from '#core/tell/deferred-mail';
import { alertMail } from '#core/tell/mail';
import type { Message } from '#core/tell/mail-frame';
import { noticeMail } from '#core/tell/notice-mail';
import type { News } from '#core/tell/news';
import { segmentOf, shortText } from '#core/tell/short-text';
import { blankDefinition } from '#core/tell/definition';
import { sanitiseText } from '#core/value/sanitise';
import type { Value } from '#core/value/value';
import { DAY } from '#core/when/interval';
import { mailFile } from '#server/deliver/mail';
import { editionRows } from '#core/tell/edition/sheet';
import { editionFile, fileName } from '#server/files/edition-files';

// Names and values from outside through every mail, header and file that tells of them: none gets out of its place
// (18).

/** Ten thousand in the long run. */
const NAMES = tries(1_000);
const A_MAIL = 20;
const CUT = Date.UTC(2026, 10, 26, 7, 30);
const place = { locale: 'en-GB', zone: 'Europe/London' };
const HOME = 'https://shrike.example';

const PIECES = [
  '<script>alert(1)</script>',
  '"><img src=x onerror=alert(1)>',
  "' onmouseover='x",
  '</td></table><form action=//x>',
  '<!--',
  '-->',
  ']]>',
  '<![CDATA[',
  '&lt;b&gt;',
  '&#x3c;i&#62;',
  '&',
  '\r\nBcc: eve@evil.example',
  '\nSubject: mine',
  '%0d%0aX-A: b',
  '\u2028To: x@y.z',
  '=?utf-8?q?=0d=0aBcc:_x@y.z?=',
  '=1+1',
  '=HYPERLINK("http://evil.example")',
  "+cmd|' /C calc'!A0",
  '-2+3',
  '@SUM(A1)',
  '\t=1',
  '{{ report }}',
  '{% for i in (1..9) %}x{% endfor %}',
  '{{ 9 | times: 9 }}',
  '\u202Eevil',
  '\u2066\u2069',
  '\u0000',
  '\u0007\u001b[31m',
  '\ud800',
  '\udc00x',
  '👩‍👩‍👧‍👦',
  'é̂'.repeat(40),
  'x'.repeat(3000),
  '日本語のとても長い名前',
  'javascript:alert(1)',
  'data:text/html,<b>',
  'https://evil.example/',
  '../../etc/passwd',
  'a;b,c"d"',
  '\\',
  '`${1}`',
  '$(id)',
  "'; DROP TABLE edition; --",
  '__proto__',
  'constructor',
  '',
  ' ',
  '\u00a0',
  '0',
  'NaN',
  'null',
];

/** A generator of numbers from a seed (mulberry32). */
function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  };
}

const random = seeded(20261129);
const pick = (): string => PIECES[Math.floor(random() * PIECES.length)] ?? '';
/** A name as somebody outside gives it; what is kept has gone through the one door that makes text sound. */
const hostile = (): string =>
  sanitiseText(
    sanitiseText([pick(), pick(), random() < 0.5 ? pick() : ''].join(random() < 0.5 ? '' : ' ')).slice(0, 4_000),
  );

const text = (words: string): Value => ({ kind: 'text', text: words });

function moveOf(seq: number): Move {
  const [name, site, label] = [hostile(), hostile(), hostile()];
  const item = {
    id: seq as ItemId,
    reference: hostile(),
    name: hostile(),
    minimum: null,
    properties: { brand: hostile(), category: '', supplier: '' },
    listings: [hostile()],
  };
  const record = {
    watch: seq as WatchId,
    id: seq as RecordId,
    name,
    subject: name,
    variant: hostile(),
    site: { id: seq as SiteId, name: site, kind: 'rival' as const },
    tags: [hostile()],
    item: seq % 3 === 0 ? item : null,
    page: `https://shop.example/${encodeURIComponent(hostile())}`,
  };
  const change = compareReadings(text(`before ${hostile()}`), text(`after ${hostile()}`), 'neither');
  if (change === null) throw new Error('nothing moved');
  return {
    id: seq as ChangeId,
    seq,
    at: CUT + seq,
    lookedBefore: CUT,
    record,
    field: { key: 'f', label, role: null, polarity: 'neither' },
    change,
    alerts: [],
  };
}

const newsOf = (move: Move): News => ({
  subject: move.record.name,
  site: move.record.site.name,
  page: move.record.page,
  field: { key: 'f', label: move.field?.label ?? '' },
  value: move.change.to,
  previous: move.change.from,
  change: move.change,
  asked: { kind: 'change', asked: { field: 'f' } },
  seenAt: CUT,
  lookedBefore: CUT - 1,
});

function madeOf(moves: Move[]) {
  const [first] = moves;
  if (first === undefined) throw new Error('no moves');
  const words = {
    subject: '{{ news }} {{ report }}',
    opening: '{{ sentence }} {{ reader }}',
    heading: '{{ group }} {{ reference }}',
  };
  const own = random() < 0.5 ? { words } : {};
  const by = (['item', 'site', 'tag', 'brand', 'watch', 'none'] as const)[Math.floor(random() * 6)] ?? 'none';
  const order = { ...blankDefinition(place.zone, ['list:1']), by, shows: 'each' as const, ...own };
  const coverage = {
    looks: 1,
    failed: 0,
    stale: [{ subject: hostile(), site: hostile(), since: CUT }],
    staleCount: 1,
    watches: 2,
    leftOut: 0,
    tooMany: false,
    quietCuts: 0,
  };
  const alerts = [
    { id: 1 as AlertId, watch: 1 as WatchId, move: null, rule: 1 as RuleId, record: first.record, news: newsOf(first) },
  ];
  const broken = [
    {
      watch: 3 as WatchId,
      subject: hostile(),
      site: hostile(),
      page: 'https://shop.example/e',
      kind: 'failing' as const,
      cause: 'not readable' as const,
      sentence: hostile(),
      since: CUT,
      lastGood: { label: hostile(), value: text(hostile()) },
      elsewhere: [hostile()],
      of: { tags: [], site: { name: 'x', kind: 'rival' as const }, items: [] },
    },
  ];
  const gathered = {
    moves,
    stood: new Map(),
    offers: new Map(),
    priced: new Map(),
    since: new Map(),
    alerts,
    broken,
    coverage,
  };
  return {
    order,
    gathered,
    document: composeEdition(order, { from: CUT, until: CUT + DAY, missed: null }, gathered),
    broken,
  };
}

function mailsOf(moves: Move[]) {
  const { order, gathered, document, broken } = madeOf(moves);
  const [report, readerName] = [hostile() || 'A report', hostile()];
  const frame = { report, edition: 3, readerName, readerNumber: 7, made: CUT, reportLink: `${HOME}/editions/9`, place };
  const alerts = moves
    .slice(0, 2)
    .map((move) => ({ news: newsOf(move), watch: `${HOME}/watches/1`, takeOn: `${HOME}/take/x` }));
  const digest = digestMail({ ...frame, document, home: HOME, told: new Map(), next: null });
  const parts = digestParts({ document, place, reportLink: frame.reportLink, home: HOME, told: new Map() });
  const messages: Message[] = [
    digest,
    alertMail({ ...frame, coverage: 'Covers one run.', alerts }),
    noticeMail({ ...frame, notices: broken.map((each) => ({ ...each, lastGoodAt: CUT, watch: `${HOME}/watches/3` })) }),
    deferredMail({
      ...frame,
      kept: [{ edition: 2, made: CUT, link: `${HOME}/editions/2`, parts }],
      before: 0,
      tooOld: 0,
      heard: 0,
    }),
    confirmMail({
      readerName,
      address: 'tom@heatherlow.example',
      askedBy: hostile(),
      reports: [hostile()],
      link: `${HOME}/confirm/x`,
      until: CUT,
      place,
    }),
    inviteMail({
      readerName,
      address: 'tom@heatherlow.example',
      invitedBy: hostile(),
      reports: [hostile()],
      link: `${HOME}/invited/x`,
      until: CUT,
      place,
    }),
    quotaMail({
      readerName,
      made: CUT,
      link: `${HOME}/mail`,
      place,
      spent: [{ of: 'mails a reader', within: 'an hour', about: { key: '1', name: hostile() }, used: 8, most: 10 }],
    }),
  ];
  return { report, readerName, digest, document, messages, lines: linesOf(order, gathered) };
}

const TAGS = new Set([
  'html',
  'head',
  'meta',
  'title',
  'style',
  'body',
  'table',
  'tbody',
  'tr',
  'td',
  'th',
  'h1',
  'h2',
  'p',
  'span',
  'a',
  'br',
  'ul',
  'li',
  'ins',
  'del',
  'strong',
  'em',
  's',
  'u',
  'b',
]);
const ATTRIBUTES = new Set([
  'lang',
  'charset',
  'name',
  'content',
  'class',
  'style',
  'role',
  'width',
  'cellpadding',
  'cellspacing',
  'align',
  'colspan',
  'scope',
  'href',
]);

/** What a page holds that none of ours does: elements, attributes, addresses. */
function foreign(html: string): string[] {
  const found: string[] = [];
  const walk = (node: DefaultTreeAdapterTypes.Node): void => {
    if (node.nodeName === '#comment') found.push('a comment');
    if ('tagName' in node) {
      if (!TAGS.has(node.tagName)) found.push(node.tagName);
      for (const { name, value } of node.attrs) {
        if (!ATTRIBUTES.has(name)) found.push(`${node.tagName} ${name}`);
        if (name === 'href' && !/^https:\/\/(shrike|shop)\.example\/[^\s"<>]*$/.test(value)) found.push(value);
        if (name === 'style' && /url\(|expression|@import|position/i.test(value)) found.push(value);
      }
    }
    if ('childNodes' in node) node.childNodes.forEach(walk);
  };
  walk(parse(html));
  return [...new Set(found)];
}

const HEADERS = new Set([
  'from',
  'to',
  'message-id',
  'subject',
  'auto-submitted',
  'list-unsubscribe',
  'list-unsubscribe-post',
  'list',
  'content-type',
  'mime-version',
  'date',
]);

const batches = Array.from({ length: NAMES / A_MAIL }, (_, batch) =>
  mailsOf(Array.from({ length: A_MAIL }, (__, n) => moveOf(batch * A_MAIL + n + 1))),
);
const PATIENCE_MS = 180_000;

describe(`${NAMES} names and values`, { timeout: PATIENCE_MS }, () => {
  it('bring no element, attribute or address into a page', () => {
    for (const { messages } of batches)
      for (const { html } of messages) expect(foreign(withoutRenderedImages(html))).toEqual([]);
  });

  it('make no control character of a line of plain text, nor a second line of a subject', () => {
    for (const { messages } of batches)
      for (const { text: plain, subject } of messages) {
        expect(subject).not.toMatch(/[\u0000-\u001f\u007f\u2028\u2029\u202a-\u202e\u2066-\u2069]/);
        expect(subject.length).toBeLessThanOrEqual(140);
        expect(plain).not.toMatch(/[\u0000-\u0008\u000b-\u001f\u007f]/);
        expect([sanitiseText(plain) === plain, sanitiseText(subject) === subject]).toEqual([true, true]);
      }
  });

  it('add no header, no reader and no attachment to a mail, and its subject is read back', async () => {
    for (const { digest, readerName, report } of batches) {
      const files = [{ name: `${fileName(report)}-3.csv`, type: 'text/csv', body: Buffer.from('a,b') }];
      const mail = {
        messageId: '<9.x@heatherlow.example>',
        to: { name: readerName, address: 'ravi@heatherlow.example' },
        subject: digest.subject,
        html: digest.html,
        text: digest.text,
        leave: `${HOME}/leave/x`,
        thread: [],
        files,
        list: null,
        sentAgain: false,
      };
      const read = await simpleParser(await mailFile('Shrike <shrike@heatherlow.example>', mail, CUT));
      expect([...read.headers.keys()].filter((header) => !HEADERS.has(header))).toEqual([]);
      expect([read.to ?? []].flat().flatMap(({ value }) => value.map(({ address }) => address))).toEqual([
        'ravi@heatherlow.example',
      ]);
      expect([read.cc, read.bcc]).toEqual([undefined, undefined]);
      expect(read.subject?.replace(/\s+/g, ' ').trim()).toBe(digest.subject.replace(/\s+/g, ' ').trim());
      expect(read.attachments.map(({ filename }) => filename)).toEqual([expect.stringMatching(/^[a-z0-9-]+-3\.csv$/)]);
    }
  });

  it('run nothing in a table, and every row is read back', async () => {
    for (const [at, { lines, report }] of batches.entries()) {
      const of = { report, edition: 3, from: CUT, until: CUT + DAY };
      const csv = Papa.parse<string[]>((await editionFile('csv', editionRows(lines), of)).toString(), {
        skipEmptyLines: true,
      });
      expect(csv.errors).toEqual([]);
      expect(csv.data).toHaveLength(1 + A_MAIL);
      for (const cell of csv.data.flat()) if (/^[=+\-@\t\r]/.test(cell)) expect(cell).toMatch(/^-?\d+(\.\d+)?$/);
      const json = JSON.parse((await editionFile('json', editionRows(lines), of)).toString()) as {
        lines: { record: string }[];
      };
      expect(json.lines).toHaveLength(A_MAIL);
      if (at % 20 !== 0) continue;
      const book = new ExcelJS.Workbook();
      await book.xlsx.load((await editionFile('xlsx', editionRows(lines), of)) as unknown as ArrayBuffer);
      const sheet = book.worksheets[0];
      expect(sheet?.rowCount).toBe(1 + A_MAIL);
      sheet?.eachRow((row) => row.eachCell((cell) => expect(cell.type).not.toBe(ExcelJS.ValueType.Formula)));
    }
  });

  it('stay whole XML in a feed, JSON in a post, and a segment in a text whose link leads to us', () => {
    for (const { digest, report, document } of batches) {
      const entries = [
        {
          id: 'tag:x,2026:1',
          title: digest.subject,
          updated: CUT,
          link: `${HOME}/editions/1`,
          summary: digest.text,
          html: digest.html,
        },
      ];
      const feed = atomFeed({
        id: 'tag:x,2026:r',
        title: report,
        self: `${HOME}/feed/x`,
        page: `${HOME}/reports/1`,
        author: report,
        updated: CUT,
        entries,
      });
      const xml = parseXmlDocument(feed);
      expect(xml.documentElement?.children.filter(({ localName }) => localName === 'entry')).toHaveLength(1);
      const event = cloudEvent({
        id: '9.x',
        source: HOME,
        made: CUT,
        report: { id: 1, name: report },
        edition: { id: 9, number: 3 },
        number: 7,
        weight: null,
        subject: digest.subject,
        text: digest.text,
        facts: editionFacts(document),
      });
      expect((JSON.parse(event) as { data: { facts: unknown[] } }).data.facts.length).toBeGreaterThan(A_MAIL - 1);
      const said = shortText(digest.subject, `${HOME}/m/abcdefghijkl`);
      const { length, most } = segmentOf(said);
      expect(length).toBeLessThanOrEqual(most);
      expect(said.endsWith(`${HOME}/m/abcdefghijkl`)).toBe(true);
    }
  });
});
