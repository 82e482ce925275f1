import { BASES, filled, type Base } from './bases';
import { BY_HAND } from './by-hand';
import * as rebuild from './rebuild';

/** One rebuilt page: what was picked before, the page after, and what may be read there. */
export interface RebuiltPage {
  base: Base;
  name: string;
  made: 'by code' | 'by hand';
  html: string;
  /** Null: no value of this page is the one that is followed. */
  truth: string | null;
}

const REBUILDS: [string, rebuild.Rebuild][] = [
  ['classes renamed', rebuild.renameClasses],
  ['classes and ids renamed', rebuild.chain(rebuild.renameClasses, rebuild.renameIds)],
  ['wrapped', rebuild.addWrappers],
  ['tags changed', rebuild.changeTags],
  ['wrapped and moved down', rebuild.chain(rebuild.addWrappers, rebuild.moveOfferDown)],
  ['tags changed, names dropped', rebuild.chain(rebuild.changeTags, rebuild.dropNames)],
  ['labels translated', rebuild.translateLabels],
  ['a price added before', rebuild.chain(rebuild.addPriceBefore, rebuild.addOthersAfter)],
  ['former price struck out beside', rebuild.chain(rebuild.addStruck, rebuild.renameClasses)],
  ['data and names dropped, wrapped', rebuild.chain(rebuild.dropStructured, rebuild.dropNames, rebuild.addWrappers)],
  ['heading demoted, classes renamed', rebuild.chain(rebuild.demoteHeading, rebuild.renameClasses)],
  ['offer above the heading', rebuild.moveOfferUp],
];

const SWAPPED = { title: 'Something else', ref: 'ZZ-1' };

function byCode(base: Base): RebuiltPage[] {
  const page = (name: string, html: string, truth: string | null): RebuiltPage => ({
    base,
    name,
    made: 'by code',
    html,
    truth,
  });
  const rebuilt = REBUILDS.map(([name, change]) => page(name, filled(change(base.html), base.moved), base.truth));
  return [
    ...rebuilt,
    page('product swapped', filled(rebuild.renameClasses(base.html), { ...base.moved, ...SWAPPED }), null),
  ];
}

function byHand(base: Base): RebuiltPage[] {
  return BY_HAND.filter((page) => page.base === base.name).map(({ name, html, truth }) => ({
    base,
    name,
    made: 'by hand',
    html,
    truth: truth === undefined ? base.truth : truth,
  }));
}

/** Every rebuilt page of the corpus. */
export const REBUILT: RebuiltPage[] = BASES.flatMap((base) => [...byCode(base), ...byHand(base)]);
