import type { Works } from '../../observation';

export interface RecordClause {
  kind: 'record';
  how: 'appears' | 'vanishes';
}

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
