/** How many watches of a document are looked at in one step of a thread: each has a deadline of its own. */
export const DOCUMENT_PART = 50;
