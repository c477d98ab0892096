import { writeFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import { stepOf } from '@idle-bend/core/cadence';
import { InvalidInput } from '@idle-bend/core/foundation';
import { END_CHOICES, METHODS, DEFAULT_SHUTTER, MAX_SHUTTER_ANGLE } from '@idle-bend/core/model';
import { ROUGH_BELOW } from '@idle-bend/core/motion';
import { plainInterpolation } from '@idle-bend/core/sampling';
import { naturalSlope, rate, rational, speakRate, type Rational } from '@idle-bend/core/time';
import {
  constantClip,
  constantMap,
  fittedClip,
  mapFrameCount,
  type ConstantClip,
  type TimeMap,
} from '@idle-bend/core/time-map';
import { CODECS, findSkips, outputKind, writeClip } from '@idle-bend/media';
import { describePlan, LEVELS, planConstant, planMap, type ClipPlan } from '@idle-bend/pipeline';
import { refuseOddSize } from './even-size.js';
import { laySound } from './clip-sound.js';
import { agreedRate, readMap } from './map.js';
import { openInput } from './numbered-input.js';
import {
  choiceOption,
  countOption,
  framesOption,
  numberOption,
  percentOption,
  rateOption,
  readOptions,
  sizeOption,
  text,
  UsageError,
  type OptionKind,
  type Values,
} from './options.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  output: {
    type: 'string',
    help: 'OUT (-o)  .mp4 (H.264) .webm (VP9) .mov (ProRes) .mkv (FFV1, lossless) or frames/%05d.png',
  },
  fps: { type: 'string', help: 'RATE  of the output; the source’s without it' },
  speed: { type: 'string', help: 'PCT  one speed; 100 without it' },
  map: { type: 'string', help: 'FILE  a time map' },
  fit: { type: 'string', help: 'DURATION  first and last frame shown exactly, in 48f, 2s or 00:00:02:00 of output' },
  end: { type: 'string', help: 'hold|loop|black  what shows where a map asks for source that is not there' },
  frames: { type: 'string', help: 'step|mix|flow  how in-between frames are made; step without it' },
  in: { type: 'string', help: 'POS  first source frame, as 120f, 4.5s or 00:00:04:12 from the file’s start' },
  'out-point': { type: 'string', help: 'POS  last source frame, included' },
  reverse: { type: 'boolean', help: 'from the last frame to the first' },
  'read-as': {
    type: 'string',
    help: 'RATE  take the source to have this rate; of numbered pictures, which have none, --fps or 24 without it',
  },
  level: { type: 'string', help: 'quick|default|best  quality of Flow’s in-betweens; default without it' },
  shutter: {
    type: 'string',
    help: 'DEG  motion blur of a shutter of 0 to 720 degrees, for what speeding up took away',
  },
  sound: { type: 'string', help: 'follow|keep|none  its pitch follows the speed, or stays; follow without it' },
  size: { type: 'string', help: 'WxH  of the output' },
  codec: { type: 'string', help: CODECS.join('|') },
  threads: { type: 'string', help: 'N  threads for decoding, encoding and Flow; all without it' },
  report: {
    type: 'string',
    help: 'FILE  JSON for every output frame: frame, source, made; of Flow’s also confidence and rough',
  },
};

/** The options that say what a map says already. */
const AGAINST_MAP = ['in', 'out-point', 'speed', 'fit', 'reverse'];

export const retime = {
  usage: 'idle-bend retime IN -o OUT [options]',
  about:
    'Renders one clip (a file, or numbered pictures such as frames/%05d.png) at one speed, fitted to a duration, or along a time map.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void, progress: (text: string) => void): Promise<number> {
    const { values, operands } = readOptions(args, OPTIONS, ['IN']);
    const out = text(values, 'output');
    if (!out) throw new UsageError('-o OUT is missing');
    if (text(values, 'map') !== undefined)
      for (const name of AGAINST_MAP)
        if (values[name] !== undefined) throw new UsageError(`--${name} and --map exclude each other`);
    if (values['speed'] !== undefined && values['fit'] !== undefined)
      throw new UsageError('--speed and --fit exclude each other');
    const sound = choiceOption(values, 'sound', ['follow', 'keep', 'none'] as const) ?? 'follow';
    const kind = outputKind(out, text(values, 'codec'));
    const method = choiceOption(values, 'frames', METHODS) ?? 'step';
    const level = choiceOption(values, 'level', LEVELS);
    if (level && method !== 'flow' && values['shutter'] === undefined)
      throw new UsageError('--level is for --frames flow and --shutter');
    const shutter = numberOption(values, 'shutter', MAX_SHUTTER_ANGLE);
    const size = sizeOption(values, 'size');
    const threads = countOption(values, 'threads', 256);
    const end = choiceOption(values, 'end', END_CHOICES);
    const speed = percentOption(values, 'speed');
    const fps = rateOption(values, 'fps');
    const readAs = rateOption(values, 'read-as');
    const mapFile = text(values, 'map') === undefined ? undefined : await readMap(text(values, 'map')!);
    if (resolve(out) === resolve(operands[0]!)) throw new InvalidInput('-o', 'is the input itself');

    const { source, close } = await openInput(operands[0]!, readAs ?? mapFile?.sourceRate ?? fps ?? rate(24), progress);
    try {
      const { grid } = source.index;
      if (grid.variable)
        progress(
          `${source.facts.name} has a variable rate; its frames are laid on ${speakRate(grid.rate)} fps (${grid.held} held, ${grid.dropped} left out)`,
        );
      // Motion goes on past a repeat, so Flow leaves them out; what is held or blended shows the file as it is.
      const droppedRepeats = method === 'flow' ? await findSkips(source) : null;
      if (droppedRepeats)
        progress(`${droppedRepeats.repeats.length} repeated frames of ${source.facts.name} are left out`);
      refuseOddSize(kind.codec, size, source.facts.video!.format, progress);
      const outputRate = agreedRate(fps, mapFile?.timelineRate, '--fps') ?? grid.rate;
      const sourceRate = agreedRate(readAs, mapFile?.sourceRate, '--read-as') ?? grid.rate;
      const blur =
        shutter === undefined
          ? undefined
          : { blur: { ...DEFAULT_SHUTTER, angle: shutter }, slope: naturalSlope(sourceRate, outputRate) };
      const choice = {
        sourceFrames: grid.frames,
        droppedRepeats,
        making: plainInterpolation(method),
        end,
        ...(blur && { blur }),
      };
      const planned = mapFile
        ? { plan: planMap(mapFile.map, mapFrameCount(mapFile.map), choice), map: mapFile.map }
        : planOneSpeed(values, speed ?? rational(1n, 1n));
      const { plan } = planned;

      function planOneSpeed(v: Values, ratio: Rational): { plan: ClipPlan; map: TimeMap } {
        const first = framesOption(v, 'in', grid.rate) ?? 0;
        const last = framesOption(v, 'out-point', grid.rate) ?? grid.frames - 1;
        const range = { first, last, frames: grid.frames };
        const reverse = v['reverse'] === true;
        const count = framesOption(v, 'fit', outputRate);
        const planned = (clip: ConstantClip) => ({ plan: planConstant(clip, choice), map: constantMap(clip) });
        if (count !== undefined) return planned(fittedClip(range, count, reverse));
        const step = stepOf(ratio, sourceRate, outputRate);
        return planned(constantClip(range, reverse ? rational(-step.num, step.den) : step));
      }

      const report = text(values, 'report');
      const sure = new Map<number, number>();
      let reported = -1;
      await writeClip(
        source,
        plan,
        { file: out, kind, rate: outputRate, size, threads, level },
        {
          onFrame: (done, total) => {
            const tenth = Math.floor((done * 10) / total);
            if (tenth > reported) progress(`${done} of ${total} frames`);
            reported = tenth;
          },
          onConfidence: report === undefined ? undefined : (frame, confidence) => sure.set(frame, confidence),
        },
      );
      if (source.facts.sound && sound !== 'none')
        await laySound(source, planned.map, outputRate, sound, end, out, kind);
      if (report)
        await writeFile(
          report,
          JSON.stringify({ frames: describePlan(plan).map((f) => ({ ...f, ...doubt(sure.get(f.frame)) })) }),
        );
      print(`${out}: ${plan.frameCount} frames at ${speakRate(outputRate)} fps`);
      return 0;
    } finally {
      await close();
    }
  },
};

/** What a report says of a frame's looks; nothing of frames that Flow does not make. */
function doubt(confidence: number | undefined): { confidence: number | null; rough: boolean | null } {
  if (confidence === undefined) return { confidence: null, rough: null };
  return { confidence: Math.round(confidence * 1000) / 1000, rough: confidence < ROUGH_BELOW };
}
