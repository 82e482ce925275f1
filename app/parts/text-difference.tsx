import { textDifference } from '#core/compare/text';

/** What became of a text: removed words struck through, added ones underlined; it reads without colour. */
export function TextDifference({ from, to }: { from: string; to: string }) {
  return (
    <p className="max-h-60 overflow-y-auto break-words whitespace-pre-line" data-text-difference>
      {textDifference(from, to).map((piece, at) =>
        piece.kind === 'same' ? (
          <span key={at} className="text-second">
            {piece.text}
          </span>
        ) : piece.kind === 'removed' ? (
          <del key={at} className="text-chestnut">
            {piece.text}
          </del>
        ) : (
          <ins key={at} className="text-teal underline">
            {piece.text}
          </ins>
        ),
      )}
    </p>
  );
}
