import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { InvalidInput } from '@idle-bend/core/foundation';
import { land as solve, parseLandings, SOLVE_DEFAULTS, type Landing } from '@idle-bend/core/landing';
import { naturalSlope } from '@idle-bend/core/time';
import { formatMapFile, framesShowing, positionAt, type TimeMap } from '@idle-bend/core/time-map';
import { readMap } from './map.js';
import { readOptions, text, UsageError, type OptionKind, type Values } from './options.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  map: { type: 'string', help: 'FILE  the time map to bend' },
  landings: { type: 'string', help: 'FILE  [{"moment":151,"cue":54},…]: source frame, timeline frame' },
  limits: { type: 'string', help: 'LO-HI  slowest and fastest speed in %, such as 10-800; freezes are exempt' },
  'free-end': { type: 'boolean', help: 'the last vertex may move' },
  json: { type: 'boolean', help: 'JSON, as without it' },
};

export const land = {
  usage: 'idle-bend land --map FILE --landings FILE [--limits LO-HI] [--free-end] [--json]',
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
    const { map, conflicts } = solve(file.map, landings, {
      ...SOLVE_DEFAULTS,
      ...(limits && { limits: { slowest: limits.slowest * k0, fastest: limits.fastest * k0 } }),
      freeEnd: values['free-end'] === true,
    });
    const answer = {
      map: JSON.parse(formatMapFile({ ...file, map })) as object,
      landings: landings.map((landing) => ({ ...landing, drift: driftOf(map, landing) })),
      conflicts: conflicts.map(({ landings: which, frames, offer }) => ({
        landings: which,
        frames,
        offer: offer ?? {},
      })),
    };
    print(JSON.stringify(answer));
    return conflicts.length > 0 ? 1 : 0;
  },
};

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
