/** How large a document of watches may be, in bytes. */
export const MOST_DOCUMENT = 8_000_000;
