import { keyOf, type Clause } from '../clause';
import { verdictOf, type Works } from '../observation';

type AbsenceClause = Extract<Clause, { kind: 'absence' }>;
type RecordClause = Extract<Clause, { kind: 'record' }>;

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

/** 15: a record that was not there before, or no longer is. */
export const record: Works<RecordClause, Record<string, never>> = {
  fresh: () => ({}),
  hear: ({ how }, memory, heard) => {
    if (how === 'appears' && heard.of === 'run' && heard.came === true)
      return { memory, finding: { is: 'met', happened: true, why: { code: 'came' } } };
    if (how === 'vanishes' && heard.of === 'gone')
      return { memory, finding: { is: 'met', happened: true, why: { code: 'went' } } };
    return heard.of === 'run' && heard.own
      ? { memory, finding: { is: 'unmet', why: { code: how === 'appears' ? 'came' : 'went' } } }
      : null;
  },
};
