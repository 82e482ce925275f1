import { describe, expect, it } from 'vitest';
import type { Moved, Topic } from '../db/base/signals';
import { Followers } from './followers';

const BEGUN = 1_000;

function following(followers: Followers, topics: Topic[], since: number) {
  const heard: Moved[] = [];
  const leave = followers.follow(topics, since, (_at, moved) => heard.push(moved));
  return { heard, leave };
}

describe('whoever follows a topic', () => {
  it('hears when it moves, and of nothing else', () => {
    const followers = new Followers(BEGUN);
    const { heard } = following(followers, ['watch:1', 'outbox'], BEGUN);
    followers.moved(['watch:2']);
    followers.moved(['watch:1', 'watch:2']);
    expect(heard).toEqual([[], ['watch:1']]);
  });

  it('hears on her way in what moved after she loaded, and not what moved before', () => {
    const followers = new Followers(BEGUN);
    followers.moved(['watch:1']);
    const loaded = followers.at;
    followers.moved(['outbox']);
    expect(following(followers, ['watch:1', 'outbox'], loaded).heard).toEqual([['outbox']]);
    expect(following(followers, ['watch:1', 'outbox'], followers.at).heard).toEqual([[]]);
  });

  it('is told that all may have moved, where her place is of another process or forgotten', () => {
    const followers = new Followers(BEGUN);
    followers.moved(['watch:1']);
    expect(following(followers, ['watch:1'], BEGUN - 1).heard).toEqual(['all']);
    expect(following(followers, ['watch:1'], followers.at + 1).heard).toEqual(['all']);
    const loaded = followers.at;
    followers.moved('all');
    expect(following(followers, ['watch:1'], loaded).heard).toEqual(['all']);
    for (let watch = 0; watch < 10_001; watch += 1) followers.moved([`watch:${watch}`]);
    expect(following(followers, ['outbox'], loaded + 1).heard).toEqual(['all']);
    expect(following(followers, ['outbox'], loaded + 2).heard).toEqual([[]]);
  });

  it('hears no more when she has left', () => {
    const followers = new Followers(BEGUN);
    const { heard, leave } = following(followers, ['outbox'], BEGUN);
    leave();
    followers.moved(['outbox']);
    expect(heard).toEqual([[]]);
    expect(followers.size).toBe(0);
  });
});
