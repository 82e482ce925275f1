import type { DraftId } from '#core/id';
import { useEffect, useState } from 'react';
import { useFetcher } from 'react-router';
import type { FieldType } from '#core/read/definition';
import type { PickAnswer } from '../pick';
import type { Meant } from './picture';

/** The picks on screen, and what the server makes of them. */
export function usePick(draftId: DraftId) {
  const { load, data } = useFetcher<PickAnswer>();
  const [numbers, setNumbers] = useState<number[]>([]);
  const [not, setNot] = useState<number[]>([]);
  const [type, setType] = useState<FieldType | null>(null);
  const query = numbers.length === 0 ? null : askFor(numbers, not, type);
  useEffect(() => {
    if (query !== null) void load(`/watches/new/${draftId}/pick?${query}`);
  }, [draftId, query, load]);
  return {
    numbers,
    not,
    answer: query === null ? null : (data ?? null),
    one: (n: number, meant: Meant) => {
      if (meant === 'not this') return setNot(numbers.length === 0 ? [] : [...not, n]);
      setNumbers(meant === 'also this' ? [...numbers.slice(-1), n] : [n]);
      if (meant === 'this') {
        setNot([]);
        setType(null);
      }
    },
    to: (n: number | null) => {
      if (n === null) return;
      setNumbers([n]);
      setNot([]);
    },
    readAs: setType,
    leave: () => {
      setNumbers([]);
      setNot([]);
      setType(null);
    },
  };
}

function askFor(numbers: number[], not: number[], type: FieldType | null): string {
  const query = new URLSearchParams([...numbers.map((n) => ['n', String(n)]), ...not.map((n) => ['not', String(n)])]);
  if (type !== null) query.set('type', JSON.stringify(type));
  return query.toString();
}
