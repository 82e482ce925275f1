import { createTransport } from 'nodemailer';
import { simpleParser } from 'mailparser';
import { afterAll, describe, expect, it } from 'vitest';
import { fitTo, openBrowser, type Browser } from '#scripts/system/browser';
import { ALERT_SIZE, drawSeries } from '#core/tell/drawing';
import { withRenderedImages } from '#core/tell/rendered-image';
import { serious } from '../support/axe';
import { sampleMails } from '../support/mails';

// Every kind of mail as programs and people take it: parsed by another hand, read on a desk and on a phone, by day and
// in the dark.

/** Every mail with pictures in its places, of the size that each is shown in. */
const PICTURE = `data:image/svg+xml;base64,${Buffer.from(drawSeries({ at: [0, 60], height: [24, 22] }, { from: 0, until: 100, ...ALERT_SIZE, limit: 23 }) ?? '').toString('base64')}`;
const MAILS = Object.entries(sampleMails()).map(
  ([what, mail]) => [what, { ...mail, html: withRenderedImages(mail.html, () => PICTURE) }] as const,
);
const opened: Browser[] = [];
afterAll(async () => {
  for (const browser of opened) await browser.close();
});

const LOOKS = [
  { name: 'on a desk', width: 700, height: 900, dark: false },
  { name: 'on a phone', width: 360, height: 740, dark: false },
  { name: 'on a desk in the dark', width: 700, height: 900, dark: true },
  { name: 'on a phone in the dark', width: 360, height: 740, dark: true },
];

describe.each(LOOKS)('a mail $name', ({ width, height, dark }) => {
  it('is read without scrolling sideways, and axe finds nothing serious', async () => {
    const browser = await openBrowser({ width, height, dark });
    opened.push(browser);
    const { driver } = browser;
    await fitTo(driver, { width, height });
    for (const [what, { html }] of MAILS) {
      await driver.get(`data:text/html;base64,${Buffer.from(html).toString('base64')}`);
      const [wide, inside, ink, page] = await driver.executeScript<[number, number, string, string]>(
        'return [document.documentElement.scrollWidth, innerWidth, ' +
          'getComputedStyle(document.querySelector("h1")).color, getComputedStyle(document.body).backgroundColor]',
      );
      const clipped = await driver.executeScript<string[]>(
        'return [...document.querySelectorAll("td, th")].filter((cell) => cell.checkVisibility() && ' +
          'cell.scrollWidth > cell.clientWidth + 1).map((cell) => cell.innerText)',
      );
      expect(clipped, what).toEqual([]);
      expect(inside).toBe(width);
      expect(wide, what).toBeLessThanOrEqual(width);
      expect(page, what).toBe(dark ? 'rgb(23, 21, 18)' : 'rgb(253, 252, 249)');
      expect(ink, what).not.toBe(page);
      // By day every rule; in the dark, where colours alone are others, contrast.
      expect([what, await serious(driver, dark ? ['color-contrast'] : undefined)]).toEqual([what, []]);
    }
  });
});

describe('a mail as another parser takes it', () => {
  it.each(MAILS)(
    '%s: one subject of one line, two bodies that say the same news, nothing that must be loaded',
    async (_what, { subject, html, text }) => {
      const built = await createTransport({ streamTransport: true, buffer: true }).sendMail({
        from: 'shrike@heatherlow.example',
        to: { name: 'Inés “B” Calloway', address: 'ines@heatherlow.example' },
        subject,
        html,
        text,
      });
      const parsed = await simpleParser(built.message as Buffer);
      expect(parsed.subject).toBe(subject);
      expect(subject).not.toMatch(/[\r\n]/);
      expect(parsed.headerLines.filter(({ key }) => key === 'subject')).toHaveLength(1);
      expect(parsed.text?.trim()).toBe(text.trim());
      expect(parsed.html).toContain('</html>');
      expect(parsed.attachments).toEqual([]);
      expect(html.replaceAll(`<img src="${PICTURE}" alt="`, '')).not.toMatch(
        /<(img|script|link|iframe|object|form)\b|url\(|@import|@font-face/i,
      );
      expect(text).not.toMatch(/<\/?[a-z]|undefined|null|NaN|\[object/);
      expect(text.split('\n').every((line) => line.length < 2_000)).toBe(true);
    },
  );
});
