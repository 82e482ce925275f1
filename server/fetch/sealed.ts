/** A secret as it is stored: sealed, never shown again. */
export interface Sealed {
  sealed: string;
}
