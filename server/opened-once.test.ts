import { expect, it } from 'vitest';
import { openedOnce } from './opened-once';

it('is opened when it is first asked for, once however many ask, and anew where that failed', async () => {
  const tried: string[] = [];
  const ways = [() => Promise.reject(new Error('away')), () => Promise.resolve('open')];
  const opened = openedOnce(() => {
    tried.push('tried');
    return (ways.shift() ?? (() => Promise.resolve('another')))();
  });
  expect(tried).toEqual([]);
  const first = [opened(), opened()];
  for (const each of first) await expect(each).rejects.toThrow('away');
  expect(await Promise.all([opened(), opened(), opened()])).toEqual(['open', 'open', 'open']);
  expect(await opened()).toBe('open');
  expect(tried).toHaveLength(2);
});
