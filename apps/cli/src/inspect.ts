import { formatRate, frameToSeconds, speakRate } from '@idle-bend/core';
import { indexFrames, probe } from '@idle-bend/media';
import { readOptions, type OptionKind } from './options.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = { json: { type: 'boolean', help: 'the same as JSON' } };
/** What the design promises and this version does not measure: said, never guessed. */
const NOT_MEASURED = ['repeats', 'cuts', 'direction'];

export const inspect = {
  usage: 'idle-bend inspect FILE [--json]',
  about: 'What a file is: container, codecs, size, exact rate, frame count, constant or variable rate, sound.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, [], ['FILE']);
    const file = operands[0]!;
    const facts = await probe(file);
    const { video, sound } = facts;
    const index = video && (await indexFrames(file, facts));
    const grid = index?.grid;
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
            },
          sound: sound && { codec: sound.codec, sampleRate: sound.sampleRate, channels: sound.channels, startSeconds: sound.startSeconds },
          startTimecode: facts.startTimecode ?? null,
          captureRate: facts.captureRate ? formatRate(facts.captureRate) : null,
          notMeasured: NOT_MEASURED,
        }),
      );
      return 0;
    }
    const lines: [string, string][] = [['file', `${facts.name}, ${facts.container}`]];
    if (video && grid) {
      const { width, height, pixelAspect, layout, colour } = video.format;
      lines.push(['picture', `${video.codec}${video.profile ? ` ${video.profile}` : ''}, ${layout.bitDepth} bit, ${video.pixelFormat}`]);
      lines.push([
        'size',
        `${width} × ${height}${pixelAspect.num === pixelAspect.den ? '' : `, pixels ${pixelAspect.num}:${pixelAspect.den}`}${video.rotation ? `, turned ${video.rotation}°` : ''}`,
      ]);
      lines.push([
        'rate',
        `${speakRate(grid.rate)} fps (${formatRate(grid.rate)}), ${grid.variable ? `variable in the file: ${grid.held} frames held, ${grid.dropped} left out on this grid` : 'constant'}`,
      ]);
      lines.push(['length', `${grid.frames} frames, ${frameToSeconds(grid.frames, grid.rate).toFixed(3)} s`]);
      lines.push(['colour', [colour.range, colour.matrix, colour.primaries, colour.transfer].map((t) => t ?? '–').join(' / ')]);
      if (video.interlaced) lines.push(['note', 'interlaced; read as whole frames']);
    } else lines.push(['picture', 'none']);
    lines.push([
      'sound',
      sound
        ? `${sound.codec}, ${sound.sampleRate} Hz, ${sound.channels} channels${Math.abs(sound.startSeconds) > 0.001 ? `, starts at ${sound.startSeconds.toFixed(3)} s` : ''}`
        : 'none',
    ]);
    if (facts.startTimecode) lines.push(['timecode', facts.startTimecode]);
    if (facts.captureRate) lines.push(['shot at', `${speakRate(facts.captureRate)} fps, by its tag`]);
    lines.push(['not yet', `repeated frames, scene cuts and direction are not measured in this version`]);
    print(lines.map(([label, value]) => `${label.padEnd(9)} ${value}`).join('\n'));
    return 0;
  },
};
