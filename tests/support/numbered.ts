/** A number as the number of a row of whatever kind is asked for, of one that need not be there. */
export const numbered = <Id extends number>(number: number): Id => number as Id;
