/** So many deliveries stand on a page. */
export const PAGE = 100;

/** Of those that have not gone out so many stand before all others. */
export const MOST_UNSENT = 50;
