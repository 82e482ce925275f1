/**
 * What stands around a value and gives it its sense. Texts are kept as they are seen; what counts of them is told when
 * two frames are compared.
 */
export interface Frame {
  /** What its own element says beside the number, and what its line says before and after it, up to the next number. */
  before: string;
  own: string;
  after: string;
  /** Of that what stands bare against the element, in no other. */
  bare: string;
  /** The sign of money that it shows itself, or the letters that stand for it. */
  sign: string;
  /** How many other sums of money stand against it, without a word that says what they are. */
  others: number;
  /** The lines right above and under it. */
  above: string | null;
  under: string | null;
  /** Whether the line above is the label of what stands below. */
  labelled: boolean;
  /** In a table: what says which row it is, and which column. */
  row: string[];
  column: string[];
  /** From the outermost heading to the nearest. */
  headings: string[];
  /** The language that the page says it is in. */
  locale: string | null;
  /** What the page calls itself, and the title that its window bears. */
  title: string | null;
  window: string | null;
  /** What structured data says of the thing: its name, its numbers, its condition. */
  thing: Record<string, string>;
  /** The options that are chosen on the page. */
  chosen: string[];
  /**
   * What is said of the thing under labels; announced: to whoever comes by, so that only another answer to the same
   * counts.
   */
  facts: [label: string, said: string, how?: 'announced'][];
  /** Other short lines under the same headings. */
  lines: string[];
}

/** What a value does that it seldom does by itself, though all around it stayed. */
export type Doubt = 'currency' | 'unit' | 'nought' | 'jump' | 'mark';

/** Which part of a frame is another than before. */
export type FramePart =
  | 'beside'
  | 'sign'
  | 'above'
  | 'under'
  | 'row'
  | 'column'
  | 'heading'
  | 'title'
  | 'thing'
  | 'chosen'
  | 'fact'
  | 'line'
  | 'found';

/** One thing that is said otherwise around a value, or that it does itself; null where nothing was, or is, said. */
export interface FrameChange {
  part: FramePart | Doubt;
  /** What is spoken of, where it has a name: the label of a fact. */
  of?: string;
  /** The ways of finding that say otherwise, in words. */
  ways?: string[];
  was: string | null;
  is: string | null;
}

/** What a table is known by, wherever on the page it stands and however many others there are. */
export interface TableHeads {
  heads: string[];
  /** Its caption and the headings above it, the nearest last. */
  under: string[];
}
