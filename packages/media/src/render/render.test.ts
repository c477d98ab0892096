import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { addCue, addSound, addSource, appendClip, insertGap } from '@idle-bend/core/edit';
import { emptyProject, type Project, type Stretch } from '@idle-bend/core/model';
import { chaptersOf, chunksOf, RENDER_FORMATS, startTimecode, type RenderFormatName } from '@idle-bend/core/render';
import { rate } from '@idle-bend/core/time';
import yauzl from 'yauzl';
import { H264, makeNumberedClip, readNumbers } from '../../test/numbered-clip.js';
import { openSource, type OpenedSource } from '../probe/source.js';
import { checkRender, wrongTime } from './check.js';
import { chunkName, writeChunk } from './chunk.js';
import { assembleRender, renderName } from './join.js';

let folder: string;
let sources: Record<string, OpenedSource>;
const at = (...names: string[]) => join(folder, ...names);
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'idle-bend-render-'));
  const bell = await makeNumberedClip({
    file: at('bell.mp4'),
    frames: 60,
    rate: '24',
    options: [
      ...H264,
      '-colorspace',
      'bt709',
      '-color_primaries',
      'bt709',
      '-color_trc',
      'bt709',
      '-color_range',
      'tv',
    ],
  });
  const boat = await makeNumberedClip({
    file: at('boat.mkv'),
    frames: 200,
    rate: '48',
    options: ['-pix_fmt', 'yuv422p10le', '-c:v', 'ffv1'],
  });
  sources = { bell: await openSource(bell), boat: await openSource(boat) };
  spawnSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'sine=frequency=440:duration=5', at('tone.wav')]);
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const open = (id: string) => Promise.resolve(sources[id]!);

/** bell 0–23, 6 of black, boat 100–147 (24 frames), a tone under all of it, two cues. */
function parade(fps = rate(24)): Project {
  const source = (id: string, frames: number, native: number) => ({
    id,
    name: id,
    frames,
    nativeRate: rate(native),
    readAs: rate(native),
    moments: [],
    droppedRepeats: null,
  });
  let project = addSource(addSource(emptyProject(fps, 320, 192), source('bell', 60, 24)), source('boat', 200, 48));
  project = insertGap(appendClip(appendClip(project, 'a', 'bell', 0, 23), 'b', 'boat', 100, 147), 1, 'gap', 6);
  project = addSound(project, {
    id: 's',
    footageId: 'tone',
    name: 'tone',
    startSeconds: 0,
    fromSeconds: 0,
    toSeconds: 5,
    gainDb: 0,
    fadeInSeconds: 0,
    fadeOutSeconds: 0,
    beats: null,
  });
  return addCue(addCue(project, { id: 'c1', frame: 10, name: 'the bell = rings', beat: null }), {
    id: 'c2',
    frame: 30,
    name: '',
    beat: null,
  });
}
const FRAMES = [
  ...Array.from({ length: 24 }, (_, i) => i),
  0,
  0,
  0,
  0,
  0,
  0,
  ...Array.from({ length: 24 }, (_, i) => 100 + 2 * i),
];

interface Wish {
  readonly depth?: number;
  readonly alpha?: boolean;
  readonly stretch?: Stretch;
  readonly cut?: readonly number[];
  readonly project?: Project;
  /** Chunks in the order they are made in. */
  readonly order?: (chunks: Stretch[]) => Stretch[];
}

/** Renders in chunks that are cut where asked. */
async function render(
  name: string,
  format: RenderFormatName,
  {
    depth = 8,
    alpha = false,
    stretch = { from: 0, to: 54 },
    cut = [20, 37],
    project = parade(),
    order = (c) => c,
  }: Wish = {},
) {
  const place = at(name);
  mkdirSync(place, { recursive: true });
  const edges = [stretch.from, ...cut.filter((c) => c > stretch.from && c < stretch.to), stretch.to];
  const chunks = RENDER_FORMATS[format].picture ? edges.slice(1).map((to, i) => ({ from: edges[i]!, to })) : [];
  for (const chunk of order([...chunks])) {
    const index = chunks.findIndex(({ from }) => from === chunk.from);
    await writeChunk(
      project,
      {
        index,
        stretch: chunk,
        first: stretch.from,
        format,
        depth,
        alpha,
        toneMap: false,
        level: 'default',
        ownSize: false,
      },
      open,
      place,
    );
  }
  const files = {
    tone: { file: at('tone.wav'), name: 'tone.wav' },
    bell: { file: at('bell.mp4'), name: 'bell' },
    boat: { file: at('boat.mkv'), name: 'boat' },
    clear: { file: at('clear.mkv'), name: 'clear' },
  };
  const timecode = startTimecode(project, stretch, 'reel', () => null);
  const chapters = chaptersOf(project, stretch);
  const loudness = await assembleRender(project, files, place, {
    format,
    chunks: chunks.length,
    stretch,
    chapters,
    timecode,
  });
  return { file: join(place, renderName(format)), loudness };
}

/** Every entry of an archive, as a reader of its own has it. */
async function unpack(file: string, out: string): Promise<void> {
  const zip = await yauzl.openPromise(file, { lazyEntries: true });
  for await (const entry of zip.eachEntry()) {
    const chunks: Buffer[] = [];
    for await (const chunk of await zip.openReadStreamPromise(entry)) chunks.push(chunk as Buffer);
    writeFileSync(join(out, entry.fileName), Buffer.concat(chunks));
  }
}

const probe = (file: string, entries: string) =>
  JSON.parse(
    spawnSync('ffprobe', ['-v', 'error', '-show_entries', entries, '-show_chapters', '-of', 'json', file], {
      encoding: 'utf8',
    }).stdout,
  );
const hash = (file: string) => createHash('sha256').update(readFileSync(file)).digest('hex');

describe('a render in chunks', () => {
  test.each<[RenderFormatName, string, string, string | null]>([
    ['h264', 'h264', 'yuv420p', 'aac'],
    ['hevc', 'hevc', 'yuv420p', 'aac'],
    ['vp9', 'vp9', 'yuv420p', 'opus'],
    ['av1', 'av1', 'yuv420p', 'opus'],
    ['prores-422', 'prores', 'yuv422p10le', 'pcm_s24le'],
    ['prores-hq', 'prores', 'yuv422p10le', 'pcm_s24le'],
    ['prores-4444', 'prores', 'yuv444p12le', 'pcm_s24le'],
    ['ffv1', 'ffv1', 'yuv420p', 'flac'],
  ])('%s shows every frame where it belongs, and sounds', async (format, codec, pixels, sound) => {
    const { file, loudness } = await render(format, format);
    expect(readNumbers(file)).toEqual(FRAMES);
    const { streams, chapters } = probe(file, 'stream=codec_type,codec_name,pix_fmt,r_frame_rate');
    const of = (type: string) => streams.find((s: { codec_type: string }) => s.codec_type === type);
    expect(of('video')).toMatchObject({ codec_name: codec, pix_fmt: pixels, r_frame_rate: '24/1' });
    expect(of('audio')?.codec_name).toBe(sound);
    expect(loudness!.integrated).toBeLessThan(-10);
    if (RENDER_FORMATS[format].chapters)
      expect(chapters.map((c: any) => [Math.round(Number(c.start_time) * 24), c.tags.title])).toEqual([
        [0, 'Start'],
        [10, 'the bell = rings'],
        [30, 'Cue 3'],
      ]);
    if (RENDER_FORMATS[format].timecode)
      expect(JSON.stringify(probe(file, 'stream_tags:format_tags'))).toContain('01:00:00:00');
    expect(readdirSync(at(format)).filter((n) => n.startsWith('.') && n !== '.chunks.txt')).toEqual([]);
  });

  test.each<RenderFormatName>(['h264', 'hevc', 'av1', 'vp9', 'prores-hq'])(
    '%s has the same bytes whenever and in whatever order its chunks are made',
    async (format) => {
      // The first is the one of the test above.
      const backward = await render(`${format}-again`, format, { order: (chunks) => chunks.reverse() });
      expect(hash(backward.file)).toBe(hash(at(format, renderName(format))));
    },
  );

  test.each<[RenderFormatName, number, string]>([
    ['ffv1', 10, 'yuv420p10le'],
    ['hevc', 10, 'yuv420p10le'],
    ['h264', 10, 'yuv420p10le'],
    ['vp9', 10, 'yuv420p10le'],
    ['av1', 10, 'yuv420p10le'],
  ])('%s keeps %d bits', async (format, depth, pixels) => {
    const { file } = await render(`${format}-deep`, format, { depth, stretch: { from: 28, to: 40 } });
    expect(probe(file, 'stream=pix_fmt').streams[0].pix_fmt).toBe(pixels);
    expect(readNumbers(file)).toEqual(FRAMES.slice(28, 40));
  });

  test('at a rate whose frames are no whole number of microseconds each keeps its place', async () => {
    const { file } = await render('odd', 'h264', {
      project: parade({ num: 24000, den: 1001 }),
      cut: [7, 14, 21, 35, 36],
    });
    const times = spawnSync(
      'ffprobe',
      ['-v', 'error', '-select_streams', 'v', '-show_entries', 'packet=pts', '-of', 'csv=p=0', file],
      {
        encoding: 'utf8',
      },
    ).stdout;
    const ticks = times
      .trim()
      .split('\n')
      .map((line) => Number(line.replace(/,.*/, '')))
      .sort((a, b) => a - b);
    expect(ticks).toEqual(Array.from({ length: ticks.length }, (_, i) => i * 1001));
    expect(readNumbers(file)).toHaveLength(ticks.length);
  });

  test('transparency goes with the formats that can carry it, and every clip with the first that has it', async () => {
    spawnSync('ffmpeg', [
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      'color=red@0.25:size=320x192:rate=24:duration=1,format=yuva444p10le',
      '-c:v',
      'ffv1',
      at('clear.mkv'),
    ]);
    sources['clear'] = await openSource(at('clear.mkv'));
    const source = {
      id: 'clear',
      name: 'clear',
      frames: 24,
      nativeRate: rate(24),
      readAs: rate(24),
      moments: [],
      droppedRepeats: null,
    };
    // The clip without transparency comes first.
    const project = appendClip(
      addSource(
        { ...parade(), reel: { ...parade().reel, items: parade().reel.items.slice(0, 1), sounds: [] } },
        source,
      ),
      'd',
      'clear',
      0,
      11,
    );
    const request = { project, alpha: true, depth: 10, stretch: { from: 0, to: 36 }, cut: [30] };
    const alphaOf = (file: string, frame: number, input: string[] = []) =>
      spawnSync('ffmpeg', [
        '-v',
        'error',
        ...input,
        '-i',
        file,
        '-vf',
        `select=eq(n\\,${frame}),alphaextract`,
        '-frames:v',
        '1',
        '-f',
        'rawvideo',
        '-pix_fmt',
        'gray',
        'pipe:1',
      ]).stdout[5000]!;
    for (const format of ['prores-4444', 'ffv1'] as const) {
      const { file } = await render(`${format}-clear`, format, request);
      expect([alphaOf(file, 3), Math.abs(alphaOf(file, 33) - 64) <= 1]).toEqual([255, true]);
    }
  });

  test('colour tags are carried', async () => {
    for (const format of ['h264', 'hevc', 'ffv1', 'prores-hq'] as const) {
      const { file } = await render(`${format}-tags`, format, { stretch: { from: 0, to: 12 } });
      const { streams } = probe(file, 'stream=codec_type,color_space,color_primaries,color_transfer');
      expect([format, streams[0]]).toMatchObject([
        format,
        { color_space: 'bt709', color_primaries: 'bt709', color_transfer: 'bt709' },
      ]);
    }
  });

  test.each<RenderFormatName>(['png', 'tiff'])(
    '%s: an archive with a picture for every frame, counted from zero',
    async (format) => {
      const { file } = await render(format, format, { stretch: { from: 18, to: 40 } });
      const out = at(`${format}-out`);
      mkdirSync(out);
      await unpack(file, out);
      const names = readdirSync(out).sort();
      expect(names).toEqual(Array.from({ length: 22 }, (_, i) => `${String(i).padStart(8, '0')}.${format}`));
      expect(readNumbers(join(out, `%08d.${format}`))).toEqual(FRAMES.slice(18, 40));
      expect(hash((await render(`${format}-again`, format, { stretch: { from: 18, to: 40 } })).file)).toBe(hash(file));
    },
  );

  test('GIF and WebP for review, WAV for the sound', async () => {
    const { file: gif } = await render('gif', 'gif');
    expect(readNumbers(gif)).toEqual(FRAMES);
    const { file: webp } = await render('webp', 'webp');
    expect(readFileSync(webp).subarray(8, 12).toString()).toBe('WEBP');
    await expect(checkRender(webp, 'webp', rate(24), 60)).rejects.toThrow(/lasts 2\.\d+ s instead of 2\.50/);
    const fast = await render('gif-fast', 'gif', { project: parade(rate(60)), stretch: { from: 0, to: 20 }, cut: [9] });
    await checkRender(fast.file, 'gif', rate(60), 20);
    const { file: wav } = await render('wav', 'wav');
    expect(Number(probe(wav, 'format=duration').format.duration)).toBeCloseTo(54 / 24, 4);
  });

  test('a reel without sound has none to write as WAV', async () => {
    const mute = { ...parade(), reel: { ...parade().reel, sounds: [] } };
    await expect(render('mute', 'wav', { project: mute })).rejects.toThrow('Nothing is heard in that part of the reel');
    expect(readdirSync(at('mute'))).toEqual([]);
  });
});

describe('a finished render is looked at', () => {
  test('one that is cut short, too long, or damaged is not called done', async () => {
    const { file } = await render('whole', 'h264');
    await checkRender(file, 'h264', rate(24), 54);
    await expect(checkRender(file, 'h264', rate(24), 55)).rejects.toThrow(
      'The finished file has 54 frames instead of 55.',
    );
    await expect(checkRender(file, 'h264', rate(30), 54)).rejects.toThrow(/lasts 2\.2\d s instead of 1\.80/);
    const bytes = readFileSync(file);
    const start = bytes.indexOf('mdat') + 2000;
    for (let i = start; i < start + 400; i++) bytes[i] = (i * 151) & 255;
    writeFileSync(at('damaged.mp4'), bytes);
    await expect(checkRender(at('damaged.mp4'), 'h264', rate(24), 54)).rejects.toThrow(/does not decode/);
  });

  test('right pictures on a wrong clock are not called done', async () => {
    const { file } = await render('clock', 'ffv1');
    const wrong = at('clock.mkv');
    // Every second picture comes half a frame early.
    spawnSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-i',
      file,
      '-an',
      '-vf',
      'setpts=(N/24-mod(N\\,2)*0.02)/TB',
      '-fps_mode',
      'passthrough',
      '-enc_time_base',
      '1:1000',
      '-c:v',
      'ffv1',
      wrong,
    ]);
    await expect(checkRender(wrong, 'ffv1', rate(24), 54)).rejects.toThrow(
      /^Frame 1 of the finished file is shown at 0\.02\d+ s instead of 0\.0417\.$/,
    );
    expect(wrongTime([0, 41, 83, 125], 1 / 1000, rate(24))).toBeUndefined();
    expect(wrongTime([0, 41, 81, 125], 1 / 1000, rate(24))).toBe(2);
    expect(wrongTime([0, 0, 100, 100, 200], 1 / 1000, rate(25))).toBe(1);
  });

  test('a chunk that is missing fails the whole, in a sentence, and the others stay', async () => {
    await render('hole', 'h264');
    rmSync(at('hole', chunkName('h264', 1)));
    const order = { format: 'h264', chunks: 3, stretch: { from: 0, to: 54 }, chapters: [], timecode: null } as const;
    await expect(
      assembleRender(
        parade(),
        {
          tone: { file: at('tone.wav'), name: 't' },
          bell: { file: at('bell.mp4'), name: 'b' },
          boat: { file: at('boat.mkv'), name: 'b' },
        },
        at('hole'),
        order,
      ),
    ).rejects.toThrow(/could not be put together|instead of/);
    expect(readdirSync(at('hole')).filter((n) => n.startsWith('chunk'))).toHaveLength(2);
  });
});

test('chunks follow one another, and depend on the stretch alone', () => {
  const chunks = chunksOf({ from: 50, to: 1000 }, parade());
  expect(chunks[0]).toEqual({ from: 50, to: 146 });
  expect(chunks.at(-1)!.to).toBe(1000);
  chunks.slice(1).forEach(({ from }, i) => expect(from).toBe(chunks[i]!.to));
});
