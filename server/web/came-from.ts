/** The header in which a request says to the application from which address it came; never the visitor's own. */
export const CAME_FROM = 'x-shrike-came-from';
