/** A person's name has so many characters at most. */
export const LONGEST_NAME = 100;
