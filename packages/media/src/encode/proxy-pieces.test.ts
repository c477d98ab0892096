import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { H264, makeNumberedClip, readNumbers } from '../../test/numbered-clip.js';
import { inspectHealth } from '../analysis/inspect-health.js';
import { openSource, type OpenedSource } from '../probe/source.js';
import { isMadeStraight } from './proxy.js';
import { writeConverted } from './proxy-converted.js';
import { writeStraight } from './proxy-straight.js';
import type { HealthRecords } from '@idle-bend/core/health';
import { piecesOf, PROXY_LINES, proxySize } from '@idle-bend/core/proxy';
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

describe('a piece that ffmpeg makes alone', () => {
  const shaped = (name: string, filters: string, options: readonly string[] = []) => {
    const film = ['-f', 'lavfi', '-i', `testsrc2=size=1280x720:rate=25,${filters}`, '-frames:v', '48'];
    const coding = ['-c:v', 'libx264', '-preset', 'ultrafast', '-bf', '2', ...options];
    execFileSync('ffmpeg', ['-v', 'error', '-y', ...film, ...coding, at(name)]);
    return openSource(at(name));
  };
  const content = (file: string) =>
    execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'framemd5', '-'])
      .toString()
      .replace(/^#.*\n/gm, '');
  const tags = (file: string) =>
    execFileSync('ffprobe', [
      ...['-v', 'error', '-show_entries'],
      ...['stream=width,height,pix_fmt,color_range,color_space,color_primaries,color_transfer,sample_aspect_ratio'],
      ...['-of', 'csv=p=0', file],
    ]).toString();

  test.each([
    ['plain', 'format=yuv420p', []],
    ['tagged', 'format=yuv420p', ['-colorspace', 'smpte170m', '-color_primaries', 'smpte170m', '-color_trc', 'bt709']],
    ['full range', 'scale=out_range=full,format=yuv420p', ['-color_range', 'pc']],
    ['upright', 'crop=406:720,format=yuv420p', []],
    ['wide samples', 'scale=720:576,setsar=64/45,format=yuv420p', []],
    ['small', 'scale=320:180,format=yuv420p', []],
    ['of 720 lines', 'format=yuv420p', []],
    ['of 1080 lines', 'scale=2560:1440,format=yuv420p', []],
  ])(
    '%s: has the pictures, tags and findings of one that is made picture by picture',
    async (name, filters, options) => {
      const film = await shaped(`${name.replace(' ', '-')}.mp4`, filters, options);
      const lines = PROXY_LINES.find((each) => name.includes(`${each}`));
      const size = proxySize(film.facts.video!.format, lines);
      expect(size.height).toBe(lines ?? Math.min(540, film.facts.video!.format.height));
      expect(isMadeStraight(film, size)).toBe(true);
      const made: { piece: number; content: string; tags: string; records: HealthRecords }[] = [];
      for (const [folderName, make] of [
        ['alone', writeStraight],
        ['by-picture', writeConverted],
      ] as const) {
        const place = at(`${name} 100 % ${folderName}`);
        mkdirSync(place);
        const layout = piecesOf(film.index.grid);
        let frames = 0;
        const after = await make(film, layout, { first: 0, after: 1 }, place, {
          size,
          onFrame: () => frames++,
          onPiece: async (piece, file, records) => {
            made.push({ piece, content: content(file), tags: tags(file), records });
          },
        });
        expect([after, frames]).toEqual([1, layout.framesIn(0)]);
      }
      expect(made).toHaveLength(2);
      const [alone, byPicture] = made.map(({ records, ...others }) => ({ records, others }));
      expect(alone!.others).toEqual(byPicture!.others);
      // Means of 4 × 4 samples are exact either way; of larger cells ffmpeg's are rounded a little.
      if (!lines) expect(alone!.records).toEqual(byPicture!.records);
      const means = ({ differences }: HealthRecords) => differences.flatMap(({ mean, motion }) => [mean, motion]);
      const expected = means(byPicture!.records);
      means(alone!.records).forEach((value, i) => expect(Math.abs(value - expected[i]!)).toBeLessThan(0.005));
    },
  );

  test('ends where another picture comes than the one whose turn it is', async () => {
    const film = await shaped('shifted.mp4', 'format=yuv420p', ['-frames:v', '150']);
    const times = Float64Array.from(film.index.times, (time, n) => (n < 140 ? time : time + 1));
    const wrong = { ...film, index: { ...film.index, times } };
    const layout = piecesOf(film.index.grid);
    mkdirSync(at('shifted'));
    const made: number[] = [];
    const size = proxySize(wrong.facts.video!.format);
    const choice = { size, onFrame: () => undefined, onPiece: async (piece: number) => void made.push(piece) };
    const reached = await writeStraight(wrong, layout, { first: 0, after: layout.count }, at('shifted'), choice);
    // The piece it is in is not made; those before it may be.
    expect(reached).toBeLessThan(layout.of(140) + 1);
    expect(made).toEqual(Array.from({ length: reached }, (_, piece) => piece));
  });
});
