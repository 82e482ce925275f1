import { describe, expect, it } from 'vitest';
import type { AlertId } from '../id';
import type { MoveId } from './edition/move';
import { drawSeries } from './drawing';
import {
  renderedImageBlock,
  renderedImage,
  renderedImageName,
  renderedImageNames,
  renderedImagesOf,
  withRenderedImages,
  withoutRenderedImages,
  type RenderedImage,
} from './rendered-image';
import { html } from './markup';

const ALERT: RenderedImage = { of: 'alert', alert: 12 as AlertId };
const MOVE: RenderedImage = { of: 'move', move: 7 as MoveId, until: 1_764_400_000_000 };
const [BEFORE, AFTER] = (['before', 'after'] as const).map((when): RenderedImage => ({
  of: 'page',
  when,
  alert: 12 as AlertId,
}));
const look = { alt: 'a "series" <b>', width: 96, height: 24, style: 'display:block' };

describe('a picture’s name', () => {
  it.each([ALERT, MOVE, BEFORE, AFTER, { of: 'moved page', when: 'after', move: 7 as MoveId } satisfies RenderedImage])(
    'tells what it is of',
    (drawn) => {
      expect(renderedImagesOf(renderedImageName(drawn as RenderedImage))).toEqual(drawn);
    },
  );

  it.each([
    '',
    'alert',
    'alert-',
    'alert-1-2',
    'move-1',
    'page-1',
    'page-between-1',
    'alert-1 ',
    'moved-1',
    'moved-between-1',
    '../alert-1',
    'alert-1234567890123456',
    'ALERT-1',
  ])('is not %j', (name) => expect(renderedImagesOf(name)).toBeNull());
});

describe('a mail with pictures', () => {
  const mail =
    html`<p>one</p>${renderedImageBlock(html`<div>${renderedImage(ALERT, look)}</div>`)}<p>two</p>${renderedImageBlock(
      html`<i>Before</i>${renderedImage(BEFORE as RenderedImage, look)}${renderedImage(AFTER as RenderedImage, look)}`,
    )}`.markup;

  it('names each once', () => {
    expect(renderedImageNames(mail + mail)).toEqual(['alert-12', 'page-before-12', 'page-after-12']);
  });

  it('shows them from where they are found', () => {
    const shown = withRenderedImages(mail, (name) => `data:${name}`);
    expect(shown).toContain('<img src="data:alert-12" alt="a &quot;series&quot; &lt;b&gt;"');
    expect(shown).not.toContain('drawn');
  });

  it('leaves out what cannot be drawn, with all that stands around it', () => {
    expect(withRenderedImages(mail, (name) => (name === 'page-after-12' ? null : name))).not.toContain('Before');
    expect(withoutRenderedImages(mail)).toBe('<p>one</p><p>two</p>');
  });

  it('takes nothing that stands in words for one', () => {
    const hostile = html`<p>${'<!--drawn--><img src="cid:alert-1@shrike"><!--/drawn-->'}</p>`.markup;
    expect(renderedImageNames(hostile)).toEqual([]);
    expect(withoutRenderedImages(hostile)).toBe(hostile);
  });
});

describe('the picture of a series', () => {
  const frame = { from: 0, until: 100, width: 100, height: 40 };

  it('goes in steps from its first value to its last, the greater the higher', () => {
    expect(drawSeries({ at: [0, 50], height: [24, 22] }, frame)).toContain('d="M0 4H45V36H96"');
  });

  it('has its limit within it', () => {
    expect(drawSeries({ at: [0, 50], height: [24, 22] }, { ...frame, limit: 20 })).toContain('M0 36H100');
  });

  it('runs through the middle where it stood still', () => {
    expect(drawSeries({ at: [0, 50], height: [24, 24] }, frame)).toContain('M0 20H45V20H96');
  });

  it.each([
    ['of one reading', { at: [0], height: [24] }],
    ['of none', { at: [], height: [] }],
    ['of what is no number', { at: [0, 1], height: [Number.NaN, Infinity] }],
  ])('is not drawn %s', (_, course) => expect(drawSeries(course, frame)).toBeNull());

  it('begins where it does, where that is later than what was asked', () => {
    expect(drawSeries({ at: [60, 80], height: [24, 22] }, frame)).toContain('d="M0 4H45V36H96"');
  });

  it('holds what lies outside its stretch at its edge', () => {
    expect(drawSeries({ at: [-50, 500], height: [24, 22] }, frame)).toContain('d="M0 4H90V36H96"');
  });
});
