import { Checkbox as RadixCheckbox } from 'radix-ui';
import { useState } from 'react';
import type { Column } from './table';

/** Rows that are chosen, by their keys; those that are no longer there are no longer chosen. */
export function useChoosing<Row>(rows: readonly Row[], keyOf: (row: Row) => number) {
  const [keys, setKeys] = useState<ReadonlySet<number>>(new Set());
  const chosen = rows.filter((row) => keys.has(keyOf(row)));
  const set = (row: Row, on: boolean) =>
    setKeys(new Set(on ? [...keys, keyOf(row)] : [...keys].filter((key) => key !== keyOf(row))));
  const setAll = (on: boolean) => setKeys(new Set(on ? rows.map(keyOf) : []));
  return {
    chosen,
    isChosen: (row: Row) => keys.has(keyOf(row)),
    set,
    setAll,
    all: rows.length > 0 && chosen.length === rows.length,
  };
}

type Choosing<Row> = ReturnType<typeof useChoosing<Row>>;

/** A column of boxes to choose rows by, with one for all of them in its head. */
export function choosingColumn<Row>(choosing: Choosing<Row>, nameOf: (row: Row) => string): Column<Row> {
  return {
    head: <Box label="Choose all of them" checked={choosing.all} onChange={choosing.setAll} />,
    className: 'w-6',
    cell: (row) => (
      <Box label={`Choose ${nameOf(row)}`} checked={choosing.isChosen(row)} onChange={(on) => choosing.set(row, on)} />
    ),
  };
}

function Box({ label, checked, onChange }: { label: string; checked: boolean; onChange: (on: boolean) => void }) {
  return (
    <RadixCheckbox.Root
      aria-label={label}
      checked={checked}
      onCheckedChange={(next) => onChange(next === true)}
      className="flex size-[14px] shrink-0 items-center justify-center border border-third data-[state=checked]:border-ink data-[state=checked]:bg-ink"
    >
      <RadixCheckbox.Indicator className="text-[11px] leading-none text-page">✓</RadixCheckbox.Indicator>
    </RadixCheckbox.Root>
  );
}
