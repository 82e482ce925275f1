import type { ChangeId, RecordId, SeriesId, WatchId } from '#core/id';
import { numbered } from '#tests/support/numbered';
import { describe, expect, it } from 'vitest';
import { compareReadings } from '#core/compare/compare';
import { money } from '#core/value/parse';
import { HOUR } from '#core/when/interval';
import type { BriefingAlert, BriefingChange } from '#server/db/reading/views/briefing';
import { movedRows, storiesOf } from './stories';

const NOW = Date.UTC(2026, 10, 23, 9);
const PLACE = { locale: 'en-GB', zone: 'Europe/London' };

function change(id: number, from: string, to: string, more: Partial<BriefingChange> = {}): BriefingChange {
  const moved = compareReadings(money(from, 'GBP'), money(to, 'GBP'), 'up is good');
  if (moved === null) throw new Error('nothing moved');
  const field = { key: 'price', label: 'price' };
  return {
    ...moved,
    id: numbered(id),
    watchId: numbered(1),
    subject: 'Copper smoker',
    site: 'Skepwright',
    record: null,
    field,
    seenAt: NOW - id * HOUR,
    lookedBefore: 0,
    alerted: false,
    ...more,
  };
}

function alert(id: number, to: string, more: Partial<BriefingAlert> = {}): BriefingAlert {
  const moved = change(id, '24.00', to);
  return {
    id,
    watchId: numbered(id),
    changeId: numbered<ChangeId>(id),
    seriesId: numbered<SeriesId>(id),
    report: 'Pricing, at once',
    over: false,
    stillRaised: false,
    address: 'https://skepwright.example/p',
    news: {
      subject: `Item ${id}`,
      site: 'Skepwright',
      page: 'https://skepwright.example/p',
      field: { key: 'price', label: 'price' },
      value: money(to, 'GBP'),
      previous: money('24.00', 'GBP'),
      change: moved,
      asked: { kind: 'change', asked: { field: 'price' } },
      seenAt: NOW - 2 * HOUR,
      lookedBefore: NOW - 4 * HOUR,
    },
    ...more,
  };
}

describe('the stories of a briefing', () => {
  it('lead with what is still raised, then with what moved most', () => {
    const stories = storiesOf(
      [alert(1, '23.00'), alert(2, '12.00'), alert(3, '23.90', { stillRaised: true })],
      3,
      NOW,
      PLACE,
    );
    expect(stories.map((story) => story.id)).toEqual([3, 2, 1]);
    expect(stories[0]?.body).toContain('Raised for 2 h.');
  });

  it('tell each series once, by its latest alert, and no more than there is room for', () => {
    const stories = storiesOf(
      [
        alert(1, '20.00', { seriesId: numbered<SeriesId>(9) }),
        alert(2, '12.00', { seriesId: numbered<SeriesId>(9) }),
        alert(3, '23.00'),
      ],
      5,
      NOW,
      PLACE,
    );
    expect(stories.map((story) => story.id)).toEqual([1, 3]);
    expect(storiesOf([alert(1, '20.00'), alert(2, '12.00')], 1, NOW, PLACE)).toHaveLength(1);
  });

  it('say what it was, until when, and who was told, or that nobody was', () => {
    const [told] = storiesOf([alert(1, '20.00')], 1, NOW, PLACE);
    expect(told?.body).toBe('It was £24.00 until 07:00. Told Pricing, at once.');
    const [silent] = storiesOf([alert(1, '20.00', { report: null })], 1, NOW, PLACE);
    expect(silent?.body).toContain('Nobody was told.');
    const first = alert(1, '20.00');
    const [atFirst] = storiesOf(
      [{ ...first, news: { ...first.news, lookedBefore: null, previous: null, change: null } }],
      1,
      NOW,
      PLACE,
    );
    expect(atFirst?.body).toContain('It was met at the first run');
  });
});

describe('what else moved', () => {
  it('is one row a field: the net move, with the number of moves on the way', () => {
    const rows = movedRows([
      change(1, '23.00', '21.00'),
      change(2, '24.00', '23.00'),
      change(3, '9.00', '8.00', { watchId: numbered<WatchId>(2) }),
    ]);
    expect(rows).toHaveLength(2);
    expect(rows[0]).toMatchObject({
      moves: 2,
      returned: false,
      changeId: 1,
      latest: { from: { amount: '24.00' }, to: { amount: '21.00' } },
    });
    expect(rows[1]).toMatchObject({ moves: 1, watchId: numbered(2) });
  });

  it('is one row a record, named after it; records that came and went are counted', () => {
    const [smoker, hive] = [
      { id: numbered<RecordId>(1), name: 'Smoker' },
      { id: numbered<RecordId>(2), name: 'Hive' },
    ];
    const rows = movedRows([
      change(1, '23.00', '21.00', { record: smoker }),
      change(2, '50.00', '48.00', { record: hive }),
    ]);
    expect(rows.map((row) => row.subject)).toEqual(['Smoker', 'Hive']);
    const came = { kind: 'record', from: { kind: 'absent' }, to: { kind: 'text', text: 'New lot' } } as const;
    const went = { kind: 'record', from: { kind: 'text', text: 'Old lot' }, to: { kind: 'absent' } } as const;
    const [row] = movedRows([
      change(1, '1', '2', { ...came, record: smoker }),
      change(2, '1', '2', { ...came, record: hive }),
      change(3, '1', '2', went),
    ]);
    expect(row).toMatchObject({
      subject: 'Copper smoker',
      records: '2 appeared, 1 vanished',
      moves: 3,
      returned: false,
    });
  });

  it('holds what was away against what was before: an absence is no move', () => {
    const gone = { kind: 'presence', difference: null, percent: null } as const;
    const away = change(2, '24.00', '0', { ...gone, to: { kind: 'absent' } });
    const back = (amount: string) =>
      change(1, '0', amount, { ...gone, from: { kind: 'absent' }, seenAt: away.seenAt + 2 * HOUR });
    expect(movedRows([back('24.00'), away])[0]).toMatchObject({ moves: 0, returned: false, awayMs: 2 * HOUR });
    expect(movedRows([back('23.00'), away])[0]).toMatchObject({ moves: 1, returned: false, awayMs: 2 * HOUR });
    expect(movedRows([away])[0]).toMatchObject({ moves: 0, awayMs: 0, latest: { to: { kind: 'absent' } } });
  });

  it('is ‘returned’ when a value left and came back, and not when nothing left', () => {
    const [row] = movedRows([change(1, '21.00', '24.00'), change(2, '24.00', '21.00')]);
    expect(row).toMatchObject({ returned: true, moves: 2 });
    const [written] = movedRows([change(1, '23', '24.0'), change(2, '24.00', '23')]);
    expect(written).toMatchObject({ returned: true });
    const [elsewhere] = movedRows([change(1, '23', '24.01'), change(2, '24.00', '23')]);
    expect(elsewhere).toMatchObject({ returned: false });
    expect(movedRows([])).toEqual([]);
  });
});
