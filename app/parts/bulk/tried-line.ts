/** What one line of a document would do. */
export interface TriedLine {
  line: number;
  name: string;
  does: 'adds' | 'changes' | 'nothing' | 'refused';
  said: string[];
}

/** What becomes of it, in a word. */
export const DOES: Record<TriedLine['does'], string> = {
  adds: 'added',
  changes: 'changed',
  nothing: 'as it is',
  refused: 'refused',
};
