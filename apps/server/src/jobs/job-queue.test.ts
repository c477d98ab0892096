import { describe, expect, test } from '@jest/globals';
import { JobQueue } from './job-queue.js';

/** Tasks that end when the test says so; the names of those that have begun, in order. */
function controlled() {
  const begun: string[] = [];
  const end = new Map<string, () => void>();
  const task = (name: string) => () => {
    begun.push(name);
    return new Promise<void>((resolve) => end.set(name, resolve));
  };
  const finish = async (name: string) => {
    end.get(name)!();
    for (let i = 0; i < 8; i++) await Promise.resolve();
  };
  return { begun, task, finish };
}

describe('jobs in turn', () => {
  test('as many at once as there are lanes, in the order they came', async () => {
    const { begun, task, finish } = controlled();
    const queue = new JobQueue(2);
    for (const name of ['a', 'b', 'c', 'd']) queue.add('p', task(name));
    expect(begun).toEqual(['a', 'b']);
    await finish('b');
    await finish('a');
    expect(begun).toEqual(['a', 'b', 'c', 'd']);
  });

  test('a card of one project does not hold up a clip of another', async () => {
    const { begun, task, finish } = controlled();
    const queue = new JobQueue();
    for (let i = 0; i < 4; i++) queue.add('card', task(`card ${i}`));
    queue.add('other', task('other 0'));
    queue.add('other', task('other 1'));
    for (let i = 0; i < 6; i++) await finish(begun.at(-1)!);
    expect(begun).toEqual(['card 0', 'other 0', 'card 1', 'other 1', 'card 2', 'card 3']);
  });

  test('what is preferred comes before the rest, what is hurried before both; in a spare lane where there is one', async () => {
    const { begun, task, finish } = controlled();
    const queue = new JobQueue(1, 1);
    for (const name of ['a', 'b', 'c', 'd', 'e', 'f']) queue.add('p', task(name), name);
    queue.prefer('p', new Set(['d', 'e']));
    queue.hurry('f');
    expect(begun).toEqual(['a', 'f']);
    // Both lanes are taken.
    queue.hurry('c');
    expect(begun).toEqual(['a', 'f']);
    await finish('f');
    expect(begun).toEqual(['a', 'f']);
    await finish('a');
    expect(begun).toEqual(['a', 'f', 'c']);
    for (const name of ['c', 'd', 'e']) await finish(name);
    expect(begun).toEqual(['a', 'f', 'c', 'd', 'e', 'b']);
    // Another project's are another matter, and what it preferred before is forgotten.
    queue.add('q', task('d2'), 'd');
    queue.prefer('p', new Set());
    for (const name of ['g', 'h']) queue.add('p', task(name), name);
    await finish('b');
    expect(begun.slice(6)).toEqual(['d2']);
  });

  test('one that fails does not keep the others', async () => {
    const { begun, task, finish } = controlled();
    const queue = new JobQueue();
    queue.add('p', () => Promise.reject(new Error('the disk is full')));
    queue.add('p', task('next'));
    for (let i = 0; i < 8; i++) await Promise.resolve();
    expect(begun).toEqual(['next']);
    await finish('next');
    queue.add('p', task('later'));
    expect(begun).toEqual(['next', 'later']);
  });

  test('what is dropped is not begun, and its end is waited for where it has been', async () => {
    const { begun, task, finish } = controlled();
    const queue = new JobQueue();
    queue.add('p', task('running'), 'a');
    queue.add('p', task('waiting'), 'a');
    queue.add('p', task('other'), 'b');
    let isOver = false;
    const dropped = queue.drop('a').then(() => (isOver = true));
    for (let i = 0; i < 8; i++) await Promise.resolve();
    expect(isOver).toBe(false);
    await finish('running');
    await dropped;
    expect(begun).toEqual(['running', 'other']);
    // Nothing under that name is no reason to wait.
    await queue.drop('a');
  });

  test('paused, it begins only what is hurried, though its lanes are full; then it goes on with as many as it has lanes', async () => {
    const { begun, task, finish } = controlled();
    const queue = new JobQueue(2);
    for (const name of ['a', 'b', 'c', 'd', 'e', 'f']) queue.add('p', task(name), name);
    queue.pause(true);
    queue.hurry('e');
    expect(begun).toEqual(['a', 'b', 'e']);
    await finish('e');
    await finish('a');
    queue.add('p', task('g'), 'g');
    expect(begun).toEqual(['a', 'b', 'e']);
    queue.hurry('g');
    queue.pause(false);
    expect(begun).toEqual(['a', 'b', 'e', 'g']);
    await finish('b');
    expect(begun).toEqual(['a', 'b', 'e', 'g', 'c']);
    // Three at once would be more than it has lanes.
    queue.pause(true);
    queue.hurry('d');
    queue.pause(false);
    expect(begun).toEqual(['a', 'b', 'e', 'g', 'c', 'd']);
    await finish('g');
    expect(begun).toEqual(['a', 'b', 'e', 'g', 'c', 'd']);
    await finish('c');
    expect(begun).toEqual(['a', 'b', 'e', 'g', 'c', 'd', 'f']);
  });
});
