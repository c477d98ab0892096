import { describeRepeats } from '@idle-bend/core/health';
import { motionStretches, type MotionStretch } from '@idle-bend/core/motion';
import { formatRate, frameToSeconds, speakRate } from '@idle-bend/core/time';
import {
  indexFrames,
  inspectHealth,
  analyseMotion,
  motionReader,
  probe,
  soundStart,
  type OpenedSource,
} from '@idle-bend/media';
import { readOptions, type OptionKind } from './options.js';

/** How many frames that may hit are told. */
const HITS = 10;

const OPTIONS: Readonly<Record<string, OptionKind>> = { json: { type: 'boolean', help: 'the same as JSON' } };

export const inspect = {
  usage: 'idle-bend inspect FILE [--json]',
  about:
    'What a file is: container, codecs, size, exact rate, frame count, constant or variable rate, sound; repeated frames, scene cuts and which way the picture moves, found by looking at every picture.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['FILE']);
    const file = operands[0]!;
    const facts = await probe(file);
    const { video, sound } = facts;
    const index = video && (await indexFrames(file, facts));
    const grid = index?.grid;
    const health = index && (await inspectHealth({ file, facts, index }, tenths(progress)));
    const motion =
      index && motionStretches(await inspectMotion({ file, facts, index }, health!.repeats, tenths(progress)));
    if (values['json']) {
      print(
        JSON.stringify({
          name: facts.name,
          container: facts.container,
          bytes: facts.bytes,
          video: video &&
            grid && {
              codec: video.codec,
              profile: video.profile ?? null,
              width: video.format.width,
              height: video.format.height,
              pixelAspect: `${video.format.pixelAspect.num}:${video.format.pixelAspect.den}`,
              rotation: video.rotation,
              pixelFormat: video.pixelFormat,
              bitDepth: video.format.layout.bitDepth,
              colour: video.format.colour,
              interlaced: video.interlaced,
              rate: formatRate(grid.rate),
              frames: grid.frames,
              durationSeconds: frameToSeconds(grid.frames, grid.rate),
              variable: grid.variable,
              heldFrames: grid.held,
              droppedFrames: grid.dropped,
              keyFrames: index.keys.length,
              repeats: health!.repeats,
              cuts: health!.cuts,
              drops: health!.drops,
              hits: health!.hits.slice(0, HITS),
              motion: motion!.map((stretch) => ({ ...stretch, degrees: stretch.degrees ?? null })),
            },
          sound: sound && {
            codec: sound.codec,
            sampleRate: sound.sampleRate,
            channels: sound.channels,
            startSeconds: soundStart(facts, index),
          },
          startTimecode: facts.startTimecode ?? null,
          captureRate: facts.captureRate ? formatRate(facts.captureRate) : null,
        }),
      );
      return 0;
    }
    const lines: [string, string][] = [['file', `${facts.name}, ${facts.container}`]];
    if (video && grid) {
      const { width, height, pixelAspect, layout, colour } = video.format;
      lines.push([
        'picture',
        `${video.codec}${video.profile ? ` ${video.profile}` : ''}, ${layout.bitDepth} bit, ${video.pixelFormat}`,
      ]);
      lines.push([
        'size',
        `${width} × ${height}${pixelAspect.num === pixelAspect.den ? '' : `, pixels ${pixelAspect.num}:${pixelAspect.den}`}${video.rotation ? `, turned ${video.rotation}°` : ''}`,
      ]);
      lines.push([
        'rate',
        `${speakRate(grid.rate)} fps (${formatRate(grid.rate)}), ${grid.variable ? `variable in the file: ${grid.held} frames held, ${grid.dropped} left out on this grid` : 'constant'}`,
      ]);
      lines.push(['length', `${grid.frames} frames, ${frameToSeconds(grid.frames, grid.rate).toFixed(3)} s`]);
      lines.push([
        'colour',
        [colour.range, colour.matrix, colour.primaries, colour.transfer].map((t) => t ?? '–').join(' / '),
      ]);
      if (video.interlaced) lines.push(['note', 'interlaced; read as whole frames']);
    } else lines.push(['picture', 'none']);
    lines.push([
      'sound',
      sound
        ? `${sound.codec}, ${sound.sampleRate} Hz, ${sound.channels} channels${Math.abs(soundStart(facts, index)) > 0.001 ? `, starts at ${soundStart(facts, index).toFixed(3)} s` : ''}`
        : 'none',
    ]);
    if (facts.startTimecode) lines.push(['timecode', facts.startTimecode]);
    if (facts.captureRate) lines.push(['shot at', `${speakRate(facts.captureRate)} fps, by its tag`]);
    if (health && grid) {
      lines.push(['repeats', describeRepeats(health.repeats, grid.frames) ?? 'none']);
      if (health.repeats.length > 0) lines.push(['', stretches(health.repeats)]);
      if (health.drops.length > 0) lines.push(['drops', `${health.drops.length}, at frames ${health.drops.join(' ')}`]);
      const hits = health.hits.slice(0, HITS).map(({ frame, kind }) => `${frame} (${kind})`);
      lines.push(['possible hits', hits.length > 0 ? `frames ${hits.join(', ')}` : 'none']);
      lines.push(['cuts', health.cuts.length > 0 ? `at frames ${health.cuts.join(' ')}` : 'none']);
    }
    for (const [i, stretch] of (motion ?? []).entries()) lines.push([i === 0 ? 'motion' : '', motionWords(stretch)]);
    print(lines.map(([label, value]) => `${label.padEnd(9)} ${value}`).join('\n'));
    return 0;
  },
};

async function inspectMotion(
  source: OpenedSource,
  repeats: readonly number[],
  onPair: (done: number, total: number) => void,
) {
  const reader = motionReader(source);
  try {
    return await analyseMotion(reader, repeats, onPair);
  } finally {
    reader.close();
  }
}

const WAYS = ['right', 'right and down', 'down', 'left and down', 'left', 'left and up', 'up', 'right and up'] as const;

/** "frames 0–41: moves left, 0.8 % of the width a frame (93 % of the picture)". */
function motionWords({ from, to, kind, degrees, perFrame, sure }: MotionStretch): string {
  const share = `(${Math.round(sure * 100)} % of the picture)`;
  const words = {
    still: `stands still ${share}`,
    unclear: 'no common motion',
    shift: `moves ${WAYS[Math.round((degrees ?? 0) / 45) % 8]}, ${(perFrame * 100).toFixed(2)} % of the width a frame ${share}`,
    push: `${perFrame > 0 ? 'grows' : 'shrinks'} by ${Math.abs(perFrame * 100).toFixed(2)} % a frame ${share}`,
    roll: `turns ${perFrame > 0 ? 'clockwise' : 'anticlockwise'} by ${Math.abs(perFrame).toFixed(2)}° a frame ${share}`,
  }[kind];
  return `frames ${from}–${to}: ${words}`;
}

/** Numbers in a row joined: "at frames 9, 23–24, 41". */
function stretches(frames: readonly number[]): string {
  const runs: [number, number][] = [];
  for (const n of frames) {
    const last = runs.at(-1);
    if (last && last[1] === n - 1) last[1] = n;
    else runs.push([n, n]);
  }
  return `at frames ${runs.map(([a, b]) => (a === b ? a : `${a}–${b}`)).join(', ')}`;
}

/** Tells how far looking at a long file has come, ten times in all; short ones are done before that says anything. */
function tenths(progress: (text: string) => void): (done: number, total: number) => void {
  let reported = 0;
  return (done, total) => {
    const tenth = Math.floor((done / total) * 10);
    if (total >= 1000 && tenth > reported) progress(`looked at ${done} of ${total} frames`);
    reported = tenth;
  };
}
