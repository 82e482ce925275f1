/** What was done to a page since a watch was set up on it. */
export const SORTS = {
  rebuilt: 'the page rebuilt, the value there plainly',
  words: 'words beside the number change its sense',
  variant: 'another variant, plan or condition chosen, said elsewhere on the page',
  grid: 'rows, columns, bands of a table moved',
  thing: 'another thing in its place, or the thing is gone and a like one offered',
  notation: 'notation: glued digits, footnote marks, raised pence, marks of another language',
  currency: 'currency',
  unit: 'unit or basis beside the number',
  data: 'structured data stale, missing, of several; nothing there yet',
  jump: 'nought, or a jump of threefold and more',
} as const;

export type Sort = keyof typeof SORTS;

/** A text that stands in the page, and what stands in its place now. */
type Edit = [from: string | RegExp, to: string];

/** One thing that was done to a page. */
export interface Done {
  sort: Sort;
  what: string;
  edits: Edit[];
  /** What may be read, as `amount unit`; null: nothing on this page is what is followed, or nobody can tell. */
  truth: string | null;
}

/** A page with the place that was picked on it, and what was done to it afterwards. */
export interface Site {
  /** What kind of site it is of. */
  kind: string;
  /** CSS of the picked place. */
  pick: string;
  /**
   * What stands for `{v}`, as it is written, and for `{d}`, as programs write it: when the watch was made, and
   * afterwards.
   */
  was: [written: string, data: string];
  is: [written: string, data: string];
  /** What `is` has to be read as. */
  truth: string;
  html: string;
  done: Done[];
}

/** Fills in what a page says at a time. */
export const filledWith = (html: string, [written, data]: [string, string]) =>
  html.replaceAll('{v}', written).replaceAll('{d}', data);

/**
 * The page after something was done to it. Throws where the page has no such text: a case that changes nothing tests
 * nothing.
 */
export function after(site: Site, { edits, what }: Done): string {
  const changed = edits.reduce((html, [from, to]) => {
    const there = typeof from === 'string' ? html.includes(from) : from.test(html);
    if (!there) throw new Error(`${site.kind}: ${what}: there is no ${String(from)}`);
    return typeof from === 'string' ? html.replaceAll(from, to) : html.replace(from, to);
  }, site.html);
  return filledWith(changed, site.is);
}

/** Must be read as what stands there now. */
export const plainly = (what: string, ...edits: Edit[]): Omit<Done, 'truth'> => ({ sort: 'rebuilt', what, edits });
/** Must not be read. */
export const never = (sort: Sort, what: string, ...edits: Edit[]): Done => ({ sort, what, edits, truth: null });
/** May be read as one thing alone. */
export const only = (sort: Sort, truth: string, what: string, ...edits: Edit[]): Done => ({ sort, what, edits, truth });

/** A site with what was done to it; what stands plainly is read as what stands there now. */
export function site(made: Omit<Site, 'done'>, done: (Done | Omit<Done, 'truth'>)[]): Site {
  return { ...made, done: done.map((each) => ('truth' in each ? each : { ...each, truth: made.truth })) };
}

const NOUNS = [
  'Smokers',
  'Hives',
  'Frames',
  'Foundation',
  'Suits',
  'Gloves',
  'Feeders',
  'Extractors',
  'Jars',
  'Labels',
  'Wax',
  'Queens',
  'Books',
  'Tools',
];

/** A menu as large shops have it, some seventy lines. */
export const menu = () =>
  '<nav ' +
  `class="mega"><ul>\n${NOUNS.map((noun) => `<li><a href="/${noun.toLowerCase()}">${noun}</a>\n<ul>\n<li><a href="/${noun.toLowerCase()}/new">New in</a></li>\n<li><a href="/${noun.toLowerCase()}/sale">Reduced</a></li>\n</ul>\n</li>`).join('\n')}\n</ul></nav>`;

/** Other things with their prices, as shops show them below. */
export const others = (price: (n: number) => string, count = 12) =>
  `<section class="others"><h2>Others also looked at</h2><ul>\n${NOUNS.slice(0, count)
    .map(
      (noun, n) =>
        `<li class="tile">\n<a href="/p/${n}">${noun} of the month</a>\n<span class="tile-price">${price(n)}</span>\n<span class="stars">4.${n % 10} of 5</span>\n</li>`,
    )
    .join('\n')}\n</ul></section>`;

/** What people say of a thing, with numbers in it. */
export const reviews = (count = 10) =>
  `<section class="reviews"><h2>What buyers say</h2>\n${NOUNS.slice(0, count)
    .map(
      (noun, n) =>
        `<article>\n<p class="by">${noun.slice(0, 4)} K., ${n + 1} March</p>\n<p>Had it for ${n + 2} seasons; cheaper than the £${n + 30} one I had before.</p>\n</article>`,
    )
    .join('\n')}\n</section>`;

/** The end of a page, with its lists of links. */
export const footer = () =>
  '<footer><div ' +
  (`class="cols">\n${NOUNS.map((noun) => `<a href="/help/${noun.toLowerCase()}">Help with ${noun.toLowerCase()}</a>`).join('\n')}\n</div><p>Orders over £60 ` +
    'are sent free. Prices include VAT.</p></footer>');
