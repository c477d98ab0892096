import { describe, expect, test } from '@jest/globals';
import { inTurns } from './in-turns.ts';

describe('tasks in turns', () => {
  test('run so many at once, in order, and each answers or fails for itself', async () => {
    const turn = inTurns(2);
    const begun: number[] = [];
    let now = 0;
    let most = 0;
    const task = (n: number) => async () => {
      begun.push(n);
      most = Math.max(most, ++now);
      await new Promise((go) => setTimeout(go, n % 3));
      now--;
      if (n === 4) throw new Error('the fourth');
      return n;
    };
    const all = await Promise.allSettled(Array.from({ length: 12 }, (_, n) => turn(task(n))));
    expect(begun).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]);
    expect(most).toBe(2);
    expect(all.map((each) => (each.status === 'fulfilled' ? each.value : 'failed'))).toEqual([
      ...[0, 1, 2, 3, 'failed', 5, 6, 7, 8, 9, 10, 11],
    ]);
  });
});
