// `idle-bend render` of reels made of the zoo's sources, in every format.
import { writeFile } from 'node:fs/promises';
import { spawnSync } from 'node:child_process';
import { basename, join } from 'node:path';
import { checkOutput, frac } from './check.mjs';
import { idleBend } from './retime.mjs';

const clip = (id, sourceId, frames, from, to) => ({
  ...{
    kind: 'clip',
    id,
    name: id,
    sourceId,
    method: 'step',
    tuning: null,
    reachMethods: [],
    mends: [],
    end: 'hold',
    ties: [],
    locks: [],
    limits: null,
  },
  ...{ versions: [], pin: null, fills: false, framing: null, blur: null, steady: null },
  map: {
    vertices: [
      { t: 0, s: from },
      { t: frames, s: to },
    ],
    bends: [0, 0].map(() => ({ widthFrames: 0, ease: 'soft' })),
  },
  sound: { mode: 'follow', freeze: 'silence', gainDb: 0, fadeInSeconds: 0, fadeOutSeconds: 0, reaches: [] },
});

/** A document of version 8, written by hand. Each clip plays its source's first frames at 100 %. */
export function reelOf({ rate, size: [width, height], colour }, clips) {
  const sources = [
    ...new Map(
      clips.map(({ source, read }) => [
        source.name,
        {
          id: source.name,
          name: basename(read.file).replace(/\.\w+$/, ''),
          frames: read.numbers.length,
          nativeRate: { num: source.rate[0], den: source.rate[1] },
          readAs: { num: source.rate[0], den: source.rate[1] },
          moments: [],
          droppedRepeats: null,
        },
      ]),
    ).values(),
  ];
  const items = clips.map(({ source, frames, from = 0, speed = 1 }, i) => {
    const slope = (frac(source.rate) / frac(rate)) * speed;
    return clip(`c${i}`, source.name, frames, from, from + frames * slope);
  });
  return {
    format: 'idle-bend-project',
    version: 8,
    sources,
    reel: {
      rate: { num: rate[0], den: rate[1] },
      width,
      height,
      colour,
      method: 'step',
      tuning: { trust: 0.5, keenness: 0 },
      blur: { kind: 'none' },
      items,
      cues: [],
      sounds: [],
      ceiling: null,
      accents: [],
      joins: [],
      range: null,
    },
  };
}

/** What each frame of the reel is to show, and when clicks are heard. */
function truthOf({ rate }, clips) {
  const pictures = [];
  const clicks = [];
  for (const { source, read, frames, from = 0, speed = 1 } of clips) {
    const slope = (frac(source.rate) / frac(rate)) * speed;
    const start = pictures.length;
    for (let k = 0; k < frames; k++)
      pictures.push(read.numbers[Math.min(read.numbers.length - 1, Math.floor(from + k * slope + 1e-6))]);
    for (const t of read.clicks ?? []) {
      const at = start / frac(rate) + (t - from / frac(source.rate)) / speed;
      if (at > start / frac(rate) + 0.01 && at < pictures.length / frac(rate) - 0.01) clicks.push(at);
    }
  }
  return { pictures, clicks };
}

const TRANSFER = { bt709: 'bt709', smpte170m: '601', 'iec61966-2-1': 'iec61966-2-1' };
/** zscale says what coded R'G'B' of one space is in another. */
export function converted(patches, from, to) {
  const words = ({ primaries, transfer }, end) =>
    `p${end}=${primaries}:t${end}=${TRANSFER[transfer]}:m${end}=gbr:r${end}=full`;
  const planes = [1, 2, 0].map((c) => Float32Array.from(patches, (rgb) => rgb[c]));
  const input = Buffer.concat(planes.map((p) => Buffer.from(p.buffer)));
  const args = [
    '-v',
    'error',
    '-f',
    'rawvideo',
    '-pix_fmt',
    'gbrpf32le',
    '-s',
    `${patches.length}x1`,
    '-i',
    'pipe:0',
    '-vf',
    `zscale=${words(from, 'in')}:${words(to, '')}`,
    '-pix_fmt',
    'gbrpf32le',
    '-f',
    'rawvideo',
    'pipe:1',
  ];
  const { status, stdout, stderr } = spawnSync('ffmpeg', args, { input });
  if (status !== 0) throw new Error(String(stderr));
  const out = new Float32Array(stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + stdout.length));
  const n = patches.length;
  return patches.map((_, i) => [out[2 * n + i], out[i], out[n + i]].map((v) => Math.min(1, Math.max(0, v))));
}

const FORMATS = {
  h264: 'mp4',
  hevc: 'mp4',
  vp9: 'webm',
  av1: 'webm',
  'prores-hq': 'mov',
  'prores-4444': 'mov',
  ffv1: 'mkv',
  gif: 'gif',
};
/** GIF chooses 256 colours of a whole film. */
const NO_COLOURS = new Set(['gif']);

/** Renders reels and looks at them. `sources`: what was read, by name. */
export async function renderReels(sources, folder, formats = Object.keys(FORMATS)) {
  const rows = [];
  const of = (name, frames, more = {}) => ({ source: sources[name].source, read: sources[name].read, frames, ...more });
  const BT709 = { matrix: 'bt709', primaries: 'bt709', transfer: 'bt709', range: 'limited' };
  const reels = [
    {
      name: 'mixed-709',
      rate: [25, 1],
      size: [320, 180],
      colour: BT709,
      clips: [of('h264-601', 40), of('h264-b', 60), of('h264-full', 24)],
    },
    {
      name: 'mixed-601',
      rate: [24000, 1001],
      size: [320, 180],
      colour: { ...BT709, matrix: 'smpte170m', primaries: 'smpte170m', transfer: 'smpte170m' },
      clips: [of('h264-b', 60), of('h264-601', 40)],
    },
    {
      name: 'fast',
      rate: [60000, 1001],
      size: [320, 180],
      colour: BT709,
      clips: [of('vp9', 60), of('h264-b', 80, { speed: 0.5 })],
    },
  ];
  for (const [i, reel] of reels.entries()) {
    const document = join(folder, `${reel.name}.json`);
    await writeFile(document, JSON.stringify(reelOf(reel, reel.clips)));
    const { pictures, clicks } = truthOf(reel, reel.clips);
    // Every format for the first reel, one in three for the others.
    for (const [f, format] of formats.entries()) {
      if (i > 0 && f % 3 !== i % 3 && formats.length > 3) continue;
      const out = join(folder, `${reel.name}-${format}.${FORMATS[format]}`);
      const what = `render ${reel.name} → ${format}`;
      try {
        await idleBend(['render', document, '-o', out, '--format', format, '--media', folder]);
        const isReview = format === 'gif';
        const step = isReview ? Math.ceil(frac(reel.rate) / 30 - 1e-9) : 1;
        const problems = [];
        let at = 0;
        for (const [n, each] of reel.clips.entries()) {
          const own = each.source.colour;
          const patches = converted(
            each.read.patches,
            { primaries: own.primaries, transfer: own.transfer },
            reel.colour,
          );
          // Asked once for each clip, since each has colours of its own; times and sound the first time.
          const wanted = {
            rate: step === 1 ? reel.rate : [reel.rate[0], reel.rate[1] * step],
            pictures: pictures.filter((_, k) => k % step === 0),
            patches: NO_COLOURS.has(format) ? undefined : patches,
            patchFrame: Math.ceil(at / step) + 2,
            clicks: n > 0 || isReview ? undefined : clicks,
            tags: isReview
              ? {}
              : {
                  color_space: reel.colour.matrix,
                  color_primaries: reel.colour.primaries,
                  color_transfer: reel.colour.transfer,
                },
            late: isReview ? 0.011 : undefined,
          };
          problems.push(...(await checkOutput(out, wanted)).map((p) => `clip ${n}: ${p}`));
          at += each.frames;
        }
        rows.push([what, problems]);
      } catch (error) {
        rows.push([what, [error.message.slice(0, 200)]]);
      }
    }
  }
  return rows;
}
