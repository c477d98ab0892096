import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { type Landing, reachPhases } from '@idle-bend/core/clean';
import { InvalidInput } from '@idle-bend/core/foundation';
import { LANDING_WAYS, type LandingReport, type LandingWay, landMap, parseLandings } from '@idle-bend/core/landing';
import { framesPerSecond, naturalSlope } from '@idle-bend/core/time';
import { formatMapFile, framesShowing, positionAt, type TimeMap } from '@idle-bend/core/time-map';
import { readMap } from './map.js';
import { readOptions, text, UsageError, type OptionKind, type Values } from './options.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  map: { type: 'string', help: 'FILE  the time map to bend' },
  landings: { type: 'string', help: 'FILE  [{"moment":151,"cue":54},…]: source frame, timeline frame' },
  limits: { type: 'string', help: 'LO-HI  slowest and fastest speed in %, such as 10-800; freezes are exempt' },
  change: {
    type: 'string',
    help: 'places|speeds|in|cut  what may change: where speeds change (as without it), the speeds, the in point, or the whole map moves by frames',
  },
  trim: {
    type: 'string',
    help: 'FRAMES  source frames the in and the out point may be trimmed by where no place serves; without it what the patience shows, 0 holds them',
  },
  patience: {
    type: 'string',
    help: 'FRAMES  how far a place may move beyond what the landings are off by; without it half a second (12 without timelineRate)',
  },
  'free-end': { type: 'boolean', help: 'the last vertex may move' },
  json: { type: 'boolean', help: 'JSON, as without it' },
};

export const land = {
  usage:
    'idle-bend land --map FILE --landings FILE [--limits LO-HI] [--change places|speeds|in|cut] [--trim FRAMES] [--patience FRAMES] [--free-end] [--json]',
  about:
    'Bends a map so that every moment shows exactly on its cue. Exit code 1 when some cannot be met; the JSON says which and offers the nearest that can.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void): Promise<number> {
    const { values } = readOptions(args, OPTIONS, []);
    const mapName = text(values, 'map');
    const landingsName = text(values, 'landings');
    if (!mapName) throw new UsageError('--map FILE is missing');
    if (!landingsName) throw new UsageError('--landings FILE is missing');
    const file = await readMap(mapName);
    const content = await readFile(landingsName, 'utf8').catch((error: Error) => {
      throw new InvalidInput('--landings', `${landingsName} cannot be read (${error.message})`);
    });
    const landings = parseLandings(content, basename(landingsName));
    const limits = limitsOption(values);
    if (limits && !(file.sourceRate && file.timelineRate))
      throw new InvalidInput(
        '--limits',
        'needs sourceRate and timelineRate in the map, for speeds are relative to them',
      );
    const k0 = file.sourceRate && file.timelineRate ? naturalSlope(file.sourceRate, file.timelineRate) : 1;
    const answer = landMap(file.map, landings, {
      change: choiceOption(values),
      limits: limits && { slowest: limits.slowest * k0, fastest: limits.fastest * k0 },
      freeEnd: values['free-end'] === true,
      trim: framesOption(values, 'trim'),
      patience: framesOption(values, 'patience') ?? (file.timelineRate ? framesPerSecond(file.timelineRate) / 2 : 12),
    });
    const { map, conflicts, report } = answer;
    print(
      JSON.stringify({
        map: JSON.parse(formatMapFile({ ...file, map })) as object,
        landings: answer.landings.map((landing) => ({ ...landing, drift: driftOf(map, landing) })),
        reaches: reachPhases(map).map(({ slope, clean }) => ({ speed: slope / k0, clean })),
        real: report.real,
        gaveUp: gaveUp(report),
        change: report.way,
        conflicts: conflicts.map(({ landings: which, frames, offer }) => ({
          landings: which,
          frames,
          offer: offer ?? {},
        })),
      }),
    );
    return conflicts.length > 0 ? 1 : 0;
  },
};

/** What a landing took that it was not to take first: trims of either end, frames of its length, stretches put in, reaches at another clean speed, the speeds. */
const gaveUp = ({ way, trimmed, longer, stretches, reaches }: LandingReport): object => ({
  ...(way === 'speeds' && { speeds: true }),
  ...(trimmed.in !== 0 && { in: trimmed.in }),
  ...(trimmed.out !== 0 && { out: trimmed.out }),
  ...(longer !== 0 && { frames: longer }),
  ...(stretches > 0 && { stretches }),
  ...(reaches > 0 && { reaches }),
});

function choiceOption(values: Values): LandingWay {
  const value = text(values, 'change') ?? 'places';
  const known = LANDING_WAYS.find((way) => way === value);
  if (!known) throw new InvalidInput('--change', `"${value}" is not one of ${LANDING_WAYS.join(', ')}`);
  return known;
}

function framesOption(values: Values, name: string): number | undefined {
  const value = text(values, name);
  if (value === undefined) return undefined;
  if (!/^\d+(\.\d+)?$/.test(value)) throw new InvalidInput(`--${name}`, `"${value}" is not a number of frames`);
  return Number(value);
}

/** By how many timeline frames a moment misses its cue: 0 landed, above 0 late; null where the map never shows it. */
function driftOf(map: TimeMap, { moment, cue }: Landing): number | null {
  if (Math.abs(positionAt(map, cue) - moment) <= 1e-6) return 0;
  return framesShowing(map, moment).reduce<number | null>(
    (best, k) => (best === null || Math.abs(k - cue) < Math.abs(best) ? k - cue : best),
    null,
  );
}

function limitsOption(values: Values): { slowest: number; fastest: number } | undefined {
  const value = text(values, 'limits');
  if (value === undefined) return undefined;
  const match = /^(\d+(?:\.\d+)?)-(\d+(?:\.\d+)?)$/.exec(value);
  const [slowest, fastest] = [Number(match?.[1]) / 100, Number(match?.[2]) / 100];
  if (!match || !(slowest > 0) || !(fastest >= slowest))
    throw new InvalidInput('--limits', `"${value}" is not a range of speeds; write 10-800`);
  return { slowest, fastest };
}
