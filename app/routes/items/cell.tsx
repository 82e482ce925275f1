import { useState } from 'react';

interface CellProps {
  /** What it is, for those who do not see the column's head. */
  label: string;
  text: string;
  /** The same as it is read; as it is typed where nothing is said. */
  shown?: string;
  /** What is read by a watch instead of being typed. */
  read?: string | undefined;
  onKeep: (text: string) => void;
}

/**
 * A cell that is written on where it stands: Enter keeps, Escape leaves it as it was, and so does leaving it unchanged.
 */
export function EditableCell({ label, text, shown = text, read, onKeep }: CellProps) {
  const [typed, setTyped] = useState<string | null>(null);
  if (read !== undefined) return <span title="read by a watch">{read}</span>;
  if (typed === null) {
    return (
      <button
        type="button"
        className="block min-h-5 w-full cursor-text truncate text-left hover:underline hover:decoration-rule [td.text-right_&]:text-right"
        aria-label={`${label}: ${text || 'empty'}. Change it`}
        onClick={() => setTyped(text)}
      >
        {shown || <span className="text-third">–</span>}
      </button>
    );
  }
  const keep = () => {
    setTyped(null);
    if (typed.trim() !== text) onKeep(typed.trim());
  };
  return (
    <input
      autoFocus
      aria-label={label}
      value={typed}
      maxLength={400}
      className="w-full min-w-24 border-b-2 border-ink bg-transparent focus:outline-none"
      onChange={(event) => setTyped(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === 'Enter') keep();
        if (event.key === 'Escape') setTyped(null);
      }}
    />
  );
}
