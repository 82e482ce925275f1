import { keyOf, type Asked } from '../../asked';
import { verdictOf, type Works } from '../../observation';

/** Known to be missing. */
export interface AbsenceClause {
  kind: 'absence';
  asked: Asked;
  how: 'is absent' | 'comes back';
}

export interface AbsenceMemory {
  absent: boolean | null;
}

/** 15: a value that is known to be missing, or comes back. */
export const absence: Works<AbsenceClause, AbsenceMemory> = {
  fresh: () => ({ absent: null }),
  learn: ({ asked }, memory, key, { value }) => (key === keyOf(asked) ? { absent: value.kind === 'absent' } : memory),
  hear: ({ asked, how }, memory, heard, { baseline }) => {
    const reading = heard.of === 'run' ? heard.read.get(keyOf(asked)) : undefined;
    if (reading === undefined) return null;
    const absent = reading.value.kind === 'absent';
    const moved = memory.absent !== null && memory.absent !== absent && !baseline;
    const why = { code: 'stands at', value: reading.value } as const;
    const back = how === 'comes back' && moved && !absent;
    const met = how === 'is absent' ? absent : back;
    return {
      memory: { absent },
      finding: { is: verdictOf(met), why, ...(moved ? { moved } : {}), ...(back ? { happened: true } : {}) },
    };
  },
};
