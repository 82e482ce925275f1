import { PAGE_SIZE } from './drawing';
import { renderedImage, type RenderedImage } from './rendered-image';
import { RULE, THIRD } from './mail-frame';
import { html, type Markup } from './markup';

/** A page before and after a change, side by side. `what` is whose page it is. */
export function pagePair(what: string, drawnAt: (when: 'before' | 'after') => RenderedImage): Markup {
  const cell = (when: 'before' | 'after') => {
    const alt = `The page of ${what} ${when === 'before' ? 'before the change' : 'after it'}`;
    const style = `box-sizing:border-box;display:block;width:100%;height:auto;border:1px solid ${RULE}`;
    const image = renderedImage(drawnAt(when), { alt, ...PAGE_SIZE, style });
    return html`<td width="50%" style="padding:${when === 'before' ? '0 8px 0 0' : '0 0 0 8px'};vertical-align:top">${image}<span class="third" style="font-size:12px;color:${THIRD}">${when === 'before' ? 'Before' : 'After'}</span></td>`;
  };
  return html`<table role="presentation" width="100%" cellpadding="0" cellspacing="0" style="border-collapse:collapse"><tr>${cell('before')}${cell('after')}</tr></table>`;
}
