import { describeRepeats, type Health } from '@idle-bend/core/health';
import type { MotionStretch } from '@idle-bend/core/motion';
import { formatRate, frameToSeconds, speakRate } from '@idle-bend/core/time';
import { soundStart, type FrameIndex, type MediaFacts } from '@idle-bend/media';

/** How many frames that may hit are told. */
const HITS = 10;

/** A file that was looked at. */
export interface Inspected {
  readonly facts: MediaFacts;
  readonly grid?: GridFacts;
  /** None where frames are only estimated, or there is no picture. */
  readonly index?: FrameIndex;
  /** Only after looking at every picture. */
  readonly seen?: { readonly health: Health; readonly motion: readonly MotionStretch[] };
  /** Only after a quick look. */
  readonly bytesRead?: number;
}

type GridFacts = Pick<FrameIndex['grid'], 'rate' | 'frames' | 'variable' | 'held' | 'dropped'>;

export function asJson({ facts, grid, index, seen, bytesRead }: Inspected): object {
  const { video, sound } = facts;
  const isQuick = bytesRead !== undefined;
  return {
    name: facts.name,
    container: facts.container,
    bytes: facts.bytes,
    ...(isQuick && { bytesRead }),
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
        ...(index && { keyFrames: index.keys.length }),
        ...(isQuick && { estimated: !index, ...(index && listOf(video, index)) }),
        ...(seen && {
          repeats: seen.health.repeats,
          cuts: seen.health.cuts,
          drops: seen.health.drops,
          hits: seen.health.hits.slice(0, HITS),
          motion: seen.motion.map((stretch) => ({ ...stretch, degrees: stretch.degrees ?? null })),
        }),
      },
    sound: sound && {
      codec: sound.codec,
      sampleRate: sound.sampleRate,
      channels: sound.channels,
      startSeconds: soundStart(facts, index),
    },
    startTimecode: facts.startTimecode ?? null,
    captureRate: facts.captureRate ? formatRate(facts.captureRate) : null,
  };
}

/** The frame list: when each decoded frame is shown, in ticks of the time base, and the numbers of those decoding may start at. */
const listOf = ({ timeBase }: NonNullable<MediaFacts['video']>, { times, keys }: FrameIndex) => ({
  timeBase: `${timeBase.num}/${timeBase.den}`,
  times: [...times],
  keys: [...keys],
});

export function asLines(inspected: Inspected): string {
  return [...pictureLines(inspected), ...soundLines(inspected), ...seenLines(inspected), ...quickLines(inspected)]
    .map(([label, value]) => `${label.padEnd(9)} ${value}`)
    .join('\n');
}

type Line = readonly [label: string, value: string];

function pictureLines({ facts, grid, index, bytesRead }: Inspected): Line[] {
  const file: Line = ['file', `${facts.name}, ${facts.container}`];
  const { video } = facts;
  if (!video || !grid) return [file, ['picture', 'none']];
  const { width, height, pixelAspect, layout, colour } = video.format;
  const shape = pixelAspect.num === pixelAspect.den ? '' : `, pixels ${pixelAspect.num}:${pixelAspect.den}`;
  const steadiness = grid.variable
    ? `variable in the file: ${grid.held} frames held, ${grid.dropped} left out on this grid`
    : 'constant';
  const about = bytesRead !== undefined && !index ? 'about ' : '';
  return [
    file,
    [
      'picture',
      `${video.codec}${video.profile ? ` ${video.profile}` : ''}, ${layout.bitDepth} bit, ${video.pixelFormat}`,
    ],
    ['size', `${width} × ${height}${shape}${video.rotation ? `, turned ${video.rotation}°` : ''}`],
    ['rate', `${speakRate(grid.rate)} fps (${formatRate(grid.rate)}), ${about ? 'as it says' : steadiness}`],
    ['length', `${about}${grid.frames} frames, ${frameToSeconds(grid.frames, grid.rate).toFixed(3)} s`],
    ['colour', [colour.range, colour.matrix, colour.primaries, colour.transfer].map((t) => t ?? '–').join(' / ')],
    ...(video.interlaced ? [['note', 'interlaced; read as whole frames'] as const] : []),
  ];
}

function soundLines({ facts, index }: Inspected): Line[] {
  const { sound, startTimecode, captureRate } = facts;
  const start = soundStart(facts, index);
  const begins = Math.abs(start) > 0.001 ? `, starts at ${start.toFixed(3)} s` : '';
  return [
    ['sound', sound ? `${sound.codec}, ${sound.sampleRate} Hz, ${sound.channels} channels${begins}` : 'none'],
    ...(startTimecode ? [['timecode', startTimecode] as const] : []),
    ...(captureRate ? [['shot at', `${speakRate(captureRate)} fps, by its tag`] as const] : []),
  ];
}

function seenLines({ seen, grid }: Inspected): Line[] {
  if (!seen || !grid) return [];
  const { repeats, drops, cuts, hits } = seen.health;
  const hitWords = hits.slice(0, HITS).map(({ frame, kind }) => `${frame} (${kind})`);
  return [
    ['repeats', describeRepeats(repeats, grid.frames) ?? 'none'],
    ...(repeats.length > 0 ? [['', stretches(repeats)] as const] : []),
    ...(drops.length > 0 ? [['drops', `${drops.length}, at frames ${drops.join(' ')}`] as const] : []),
    ['possible hits', hitWords.length > 0 ? `frames ${hitWords.join(', ')}` : 'none'],
    ['cuts', cuts.length > 0 ? `at frames ${cuts.join(' ')}` : 'none'],
    ...seen.motion.map((stretch, i): Line => [i === 0 ? 'motion' : '', motionWords(stretch)]),
  ];
}

function quickLines({ facts, index, bytesRead }: Inspected): Line[] {
  if (bytesRead === undefined) return [];
  const kind = index ? 'exact' : facts.video ? 'estimated: its headers list no frames' : 'none';
  const share = `${((100 * bytesRead) / facts.bytes).toFixed(1)} %`;
  return [
    ['frames', kind],
    ['read', `${bytesRead} bytes, ${share} of the file`],
  ];
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
