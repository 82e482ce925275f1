import { describe, expect, it } from 'vitest';
import { notAsSeen, triedOf } from './tried.server';
import type { TriedLine } from './tried-line';

const line = (name: string, does: TriedLine['does'], said: string[] = []): TriedLine => ({ line: 1, name, does, said });

describe('what a document would do', () => {
  const seen = triedOf('text', [line('One', 'adds'), line('Two', 'changes', ['price: 3 → 4'])]);

  it('is done as it was seen', () => {
    expect(
      notAsSeen(triedOf('text', [line('One', 'adds'), line('Two', 'changes', ['price: 3 → 4'])]), seen.seal),
    ).toBeNull();
  });

  it.each<[string, TriedLine[]]>([
    ['changes something else', [line('One', 'adds'), line('Two', 'changes', ['price: 5 → 4'])]],
    ['adds what was there', [line('One', 'adds'), line('Two', 'adds')]],
    ['lacks one', [line('One', 'adds')]],
  ])('is shown anew where it %s', (_what, lines) => {
    expect(notAsSeen(triedOf('text', lines), seen.seal)?.problem).toMatch(/look through it again/);
  });

  it('is done already where nothing is left, as after two presses', () => {
    expect(notAsSeen(triedOf('text', [line('One', 'nothing'), line('Two', 'nothing')]), seen.seal)).toBeNull();
  });

  it('is not done unseen', () => {
    expect(notAsSeen(seen, '')).not.toBeNull();
  });
});
