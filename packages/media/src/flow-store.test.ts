import { mkdtempSync, readdirSync, readFileSync, rmSync, truncateSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { NO_COLOUR_TAGS, parsePixelFormat, type Frame } from '@idle-bend/core/frame';
import { FlowStore } from './flow-store.js';
import { FlowThreads } from './flow-threads.js';
import { loadFlow } from './kernels.js';

const root = mkdtempSync(join(tmpdir(), 'idle-bend-store-'));
afterAll(() => rmSync(root, { recursive: true, force: true }));
let folders = 0;
const fresh = (maxBytes = 1e8) => new FlowStore(join(root, String(folders++)), maxBytes);

const [W, H] = [64, 48];
const frame = (by: number): Frame => ({
  format: {
    width: W,
    height: H,
    layout: parsePixelFormat('gray')!,
    colour: NO_COLOUR_TAGS,
    pixelAspect: { num: 1, den: 1 },
  },
  data: Uint8Array.from(
    { length: W * H },
    (_, i) => 128 + 90 * Math.sin(((i % W) - by) / 5) * Math.cos(Math.floor(i / W) / 4),
  ),
});
const [a, b] = [frame(0), frame(3)];
const pair = loadFlow().pair(a, b, 'best');
const only = (store: FlowStore) => join(store.folder, readdirSync(store.folder)[0]!);

describe('motion on disk', () => {
  test('comes back to the last bit, and says how much there is', async () => {
    const store = fresh();
    const key = store.key(a, b, 'best');
    expect(await store.get(key)).toBeUndefined();
    await store.put(key, pair);
    expect(await store.get(key)).toEqual(pair);
    expect(await store.content()).toEqual({ pairs: 1, bytes: readFileSync(only(store)).length });
    await store.clear();
    expect(await store.content()).toEqual({ pairs: 0, bytes: 0 });
  });

  test('is known by both pictures, their order and the level, and by nothing else', () => {
    const store = fresh();
    const keys = [
      store.key(a, b, 'quick'),
      store.key(b, a, 'quick'),
      store.key(a, b, 'best'),
      store.key(a, frame(4), 'quick'),
    ];
    expect(new Set(keys).size).toBe(4);
    expect(fresh().key({ ...a, data: a.data.slice() }, frame(3), 'quick')).toBe(keys[0]);
  });

  test.each<[string, (file: string) => void]>([
    ['cut off', (file) => truncateSync(file, 1000)],
    ['empty', (file) => truncateSync(file, 0)],
    ['changed in one place', (file) => writeFileSync(file, readFileSync(file).with(500, 7))],
  ])('a file that is %s counts as absent', async (_, damage) => {
    const store = fresh();
    const key = store.key(a, b, 'best');
    await store.put(key, pair);
    damage(only(store));
    expect(await store.get(key)).toBeUndefined();
  });

  test('is bounded: what was used longest ago goes, and so does what an interrupted write left', async () => {
    const one = fresh();
    await one.put('x', pair);
    const { bytes } = await one.content();
    const store = fresh(2.5 * bytes);
    for (const [i, key] of ['old', 'older', 'new'].entries()) {
      await store.put(key, pair);
      const used = [200, 100, 300][i]!;
      utimesSync(join(store.folder, `${key}.motion`), used, used);
    }
    writeFileSync(join(store.folder, 'half.motion.1a2b3c4d'), 'x');
    utimesSync(join(store.folder, 'half.motion.1a2b3c4d'), 1, 1);
    await store.prune();
    expect(readdirSync(store.folder).sort()).toEqual(['new.motion', 'old.motion']);
  });

  test('a place that cannot be written keeps nothing and stops nothing', async () => {
    writeFileSync(join(root, 'file'), '');
    const store = new FlowStore(join(root, 'file', 'below'), 1e8);
    await store.put('key', pair);
    expect(await store.get('key')).toBeUndefined();
    expect(await store.content()).toEqual({ pairs: 0, bytes: 0 });
  });
});

describe('threads that keep motion on disk', () => {
  test('find a pair once, whoever asks, and get the same', async () => {
    const store = fresh();
    const ask = async () => {
      const threads = new FlowThreads(1, 'quick', store);
      const found = await threads.means.pair(a, b, 'quick', [0, 1]);
      threads.close();
      return found;
    };
    const first = await ask();
    utimesSync(only(store), 100, 100);
    expect(await ask()).toEqual(first);
    expect(await ask()).toEqual(loadFlow().pair(a, b, 'quick'));
    expect((await store.content()).pairs).toBe(1);
  });
});
