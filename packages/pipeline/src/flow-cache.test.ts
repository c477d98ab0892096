import { describe, expect, test } from '@jest/globals';
import type { PairFlow } from '@idle-bend/kernels';
import { FlowCache } from './flow-cache.js';

/** A pair whose motion takes 2400 bytes. */
const pair = () => [{ width: 10, height: 10 }] as unknown as PairFlow;

describe('the cache of motion', () => {
  test('a pair is found once, at each level', () => {
    const cache = new FlowCache(1e6);
    let asked = 0;
    const find = () => (asked++, pair());
    const first = cache.get('quick', 3, 4, find);
    expect(cache.get('quick', 3, 4, find)).toBe(first);
    void cache.get('best', 3, 4, find);
    void cache.get('quick', 4, 3, find);
    expect(asked).toBe(3);
    expect(cache.has('quick', 3, 4)).toBe(true);
    expect(cache.has('default', 3, 4)).toBe(false);
  });

  test('what was used longest ago goes first', () => {
    const cache = new FlowCache(5000);
    void cache.get('quick', 0, 1, pair);
    void cache.get('quick', 1, 2, pair);
    void cache.get('quick', 0, 1, pair);
    void cache.get('quick', 2, 3, pair);
    expect([0, 1, 2].map((n) => cache.has('quick', n, n + 1))).toEqual([true, false, true]);
  });

  test('motion being found counts once it is there; what fails is asked for again', async () => {
    const cache = new FlowCache(1e6);
    await expect(cache.get('quick', 0, 1, () => Promise.reject(new Error('the thread ended')))).rejects.toThrow(
      'the thread ended',
    );
    await Promise.resolve();
    expect(cache.has('quick', 0, 1)).toBe(false);
    await cache.get('quick', 0, 1, () => Promise.resolve(pair()));
    expect(cache.has('quick', 0, 1)).toBe(true);
  });
});
