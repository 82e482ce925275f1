import { describe, expect, it } from 'vitest';
import { html } from './markup';
import { deferredMail, type DeferredPart } from './deferred-mail';

const AT = Date.UTC(2026, 10, 28, 7, 30);
const part = (edition: number, length = 10): DeferredPart => ({
  edition,
  made: AT,
  link: `https://shrike.example/editions/${edition}`,
  parts: { html: [html`<tr><td>news of ${edition} ${'x'.repeat(length)}</td></tr>`], text: [`news of ${edition}`] },
});
const mail = (kept: DeferredPart[], more: Partial<Parameters<typeof deferredMail>[0]> = {}) =>
  deferredMail({
    report: 'Pricing, at once',
    readerName: 'Ravi Oduya',
    readerNumber: 3,
    made: AT,
    reportLink: 'https://shrike.example/editions/9',
    place: { locale: 'en-GB', zone: 'Europe/London' },
    kept,
    before: 0,
    tooOld: 0,
    heard: 0,
    ...more,
  });
const many = (count: number, length = 10) => Array.from({ length: count }, (_, at) => part(at + 1, length));

describe('what was kept back', () => {
  it('stands whole where a mail has room for it, in the order in which it was made', () => {
    const { subject, text } = mail(many(3));
    expect(subject).toBe('Pricing, at once: 3 editions kept back until now');
    expect(text).toContain('3 editions were kept back for you until now.\n');
    expect([1, 2, 3].map((edition) => text.indexOf(`news of ${edition}`))).toEqual(
      [1, 2, 3].map((edition) => text.indexOf(`news of ${edition}`)).sort((a, b) => a - b),
    );
    expect(text).toContain('This mail leaves out nothing of them.');
    expect(mail(many(1)).text).toContain('One edition was kept back for you until now.\n');
  });

  it('is said to stand in for what another report was to tell, where it does', () => {
    const { subject, text } = mail(many(1), { standsIn: true });
    expect(subject).toBe('Pricing, at once: what another mail was to tell you');
    expect(text).toContain('Another report was to tell you this at once, and its mail never came.\n');
    expect(text).not.toContain('kept back');
  });

  it('is the latest where there is more, with those before by name, and the rest counted', () => {
    const { text } = mail(many(150), { before: 40 });
    expect(text).toContain(
      '190 editions were kept back for you until now. The latest 12 stand here whole, those before by name.',
    );
    expect(text).toContain('news of 150');
    expect(text).toContain('news of 139');
    expect(text).not.toContain('news of 138');
    expect(text).toContain('https://shrike.example/editions/138');
    expect(text).toContain('and 78 before them');
    expect(text).toContain('Those that have no room here are read in Shrike.');
  });

  it('is one at the least, however long, and no edition is cut in two', () => {
    const { text, html: page } = mail(many(4, 200_000));
    expect(text).toContain('The latest stands here whole, those before by name.');
    expect(text).toContain('news of 4');
    expect(text).not.toContain('news of 3');
    expect(page.length).toBeLessThan(260_000);
  });

  it('says what is not in it: what was too old, and what she had heard', () => {
    const { text } = mail(many(1), { tooOld: 2, heard: 1 });
    expect(text).toContain('2 editions more than 30 days old are only kept in Shrike.');
    expect(text).toContain('One edition told nothing that you had not heard through another report.');
  });
});
