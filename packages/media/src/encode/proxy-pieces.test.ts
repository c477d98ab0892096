import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { piecesOf } from '@idle-bend/core/proxy';
import { H264, makeNumberedClip, readNumbers } from '../../test/numbered-clip.js';
import { inspectHealth } from '../analysis/inspect-health.js';
import { openSource, type OpenedSource } from '../probe/source.js';
import { joinPieces, madePieces, pieceFile, writePieces } from './proxy-pieces.js';

const folder = mkdtempSync(join(tmpdir(), 'idle-bend-pieces-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);

const FRAMES = 200;
const RATE = '30000/1001';
let source: OpenedSource;
beforeAll(async () => {
  const options = [...H264, '-g', '50', '-bf', '3', '-x264-params', 'open-gop=1'];
  source = await openSource(await makeNumberedClip({ file: at('run.mp4'), frames: FRAMES, rate: RATE, options }));
});

const quiet = { onFrame: () => undefined };

describe('a proxy in pieces', () => {
  test('each piece has its own frames; joined they are the proxy, with every frame at its exact time, and what was seen is what a look at the whole sees', async () => {
    const layout = piecesOf(source.index.grid);
    expect(layout.count).toBe(4);
    // Begun in the middle, broken off, gone on with elsewhere.
    for (const [from, most] of [
      [1, 1.5 * layout.frames],
      [3, 10],
      [0, Infinity],
    ] as const) {
      const stop = new AbortController();
      let made = 0;
      const before = (await madePieces(at('pieces'))).length * layout.frames;
      const onFrame = (done: number) => {
        made = done - before;
        if (made >= most) stop.abort();
      };
      const writing = writePieces(source, at('pieces'), { from, onFrame, signal: stop.signal });
      if (most < Infinity) await expect(writing).rejects.toThrow();
      else await writing;
      if (from === 1) expect(await madePieces(at('pieces'))).toEqual([1]);
    }
    expect(await madePieces(at('pieces'))).toEqual([0, 1, 2, 3]);
    for (const piece of [0, 2, 3])
      expect(readNumbers(pieceFile(at('pieces'), piece))).toEqual(
        Array.from({ length: layout.framesIn(piece) }, (_, n) => layout.first(piece) + n),
      );
    const health = await joinPieces(source, at('pieces'), at('proxy.mp4'));
    expect(health).toEqual(await inspectHealth(source));
    expect(readNumbers(at('proxy.mp4'))).toEqual(Array.from({ length: FRAMES }, (_, n) => n));
    const listed = execFileSync('ffprobe', [
      ...['-v', 'error', '-select_streams', 'v:0', '-show_entries', 'packet=pts_time,flags', '-of', 'csv=p=0'],
      at('proxy.mp4'),
    ]);
    const rows = listed.toString().trim().split('\n');
    rows.forEach((row, n) => {
      const [time, flags] = row.split(',');
      expect(Math.abs(Number(time) - (n * 1001) / 30000)).toBeLessThan(2e-6);
      expect(flags!.startsWith('K')).toBe(n % 12 === 0);
    });
    expect(readdirSync(folder)).not.toContain('pieces');
  });

  test('what is there is not made again; pieces of another file are thrown away', async () => {
    await writePieces(source, at('more'), { from: 0, ...quiet });
    const times = () => readdirSync(at('more')).map((name) => statSync(join(at('more'), name)).mtimeMs);
    const first = times();
    rmSync(pieceFile(at('more'), 1));
    await writePieces(source, at('more'), { from: 0, ...quiet });
    const changed = times().filter((time, i) => time !== first[i]);
    expect(changed).toHaveLength(2);

    const options = [...H264, '-g', '50'];
    const file = await makeNumberedClip({ file: at('other.mp4'), frames: FRAMES, rate: RATE, options });
    const other = await openSource(file);
    const content = readFileSync(pieceFile(at('more'), 2));
    await writePieces(other, at('more'), { from: 0, ...quiet });
    expect(readFileSync(pieceFile(at('more'), 2)).equals(content)).toBe(false);
    rmSync(join(at('more'), '2.json'));
    await expect(joinPieces(other, at('more'), at('never.mp4'))).rejects.toThrow(
      'A piece of the proxy of other.mp4 is missing',
    );
    expect(readdirSync(folder)).not.toContain('never.mp4');
  });
});
