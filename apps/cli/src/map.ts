import { basename } from 'node:path';
import { cleanSlope, stepOf } from '@idle-bend/core/cadence';
import { decodeText } from '@idle-bend/core/exchange';
import { InvalidInput } from '@idle-bend/core/foundation';
import { reachPhases } from '@idle-bend/core/clean';
import { isWholeFrame } from '@idle-bend/core/sampling';
import { naturalSlope, sameRate, timesWhole, toNumber, type Rate } from '@idle-bend/core/time';
import { mapFrameCount, parseMapFile, positionAt, speedAt, type MapFile } from '@idle-bend/core/time-map';
import { readBytes } from './io.js';
import { countOption, percentOption, rateOption, readOptions, text, UsageError, type OptionKind } from './options.js';

const OPTIONS: Readonly<Record<string, OptionKind>> = {
  map: { type: 'string', help: 'FILE  a time map' },
  speed: { type: 'string', help: 'PCT  one speed' },
  'source-fps': { type: 'string', help: 'RATE  the rate the source is read as' },
  fps: { type: 'string', help: 'RATE  the timeline’s rate' },
  count: { type: 'string', help: 'N  how many timeline frames' },
  csv: { type: 'boolean', help: 'frame,source,speed,made (as without it)' },
  json: { type: 'boolean', help: 'the same as JSON' },
};

/** Reads a map file; its problems name the file. */
export async function readMap(file: string): Promise<MapFile> {
  const content = await readBytes(file).then(decodeText, (error: Error) => {
    throw new InvalidInput('--map', error.message);
  });
  return parseMapFile(content, basename(file));
}

/** One rate from an option and a map; both may give it, but not differently. Throws `InvalidInput`. */
export function agreedRate(option: Rate | undefined, inMap: Rate | undefined, name: string): Rate | undefined {
  if (option && inMap && !sameRate(option, inMap))
    throw new InvalidInput(name, `is ${option.num}/${option.den}, but the map says ${inMap.num}/${inMap.den}`);
  return option ?? inMap;
}

export const map = {
  usage: 'idle-bend map (--map FILE | --speed PCT) --source-fps RATE --fps RATE --count N [--csv|--json]',
  about: 'Timeline frame, source position, speed, made or real: no video is touched.',
  options: OPTIONS,
  async run(args: readonly string[], print: (text: string) => void): Promise<number> {
    const { values } = readOptions(args, OPTIONS, []);
    const speed = percentOption(values, 'speed');
    const mapName = text(values, 'map');
    if ((speed === undefined) === (mapName === undefined)) throw new UsageError('give one of --map and --speed');
    if (values['csv'] && values['json']) throw new UsageError('--csv and --json exclude each other');
    const file = mapName === undefined ? undefined : await readMap(mapName);
    const source = agreedRate(rateOption(values, 'source-fps'), file?.sourceRate, '--source-fps');
    const timeline = agreedRate(rateOption(values, 'fps'), file?.timelineRate, '--fps');
    if (!source) throw new UsageError('--source-fps is missing');
    if (!timeline) throw new UsageError('--fps is missing');
    const count = countOption(values, 'count') ?? (file && mapFrameCount(file.map));
    if (count === undefined) throw new UsageError('--count is missing');
    if (file && count > mapFrameCount(file.map))
      throw new InvalidInput('--count', `is ${count}, but the map ends after ${mapFrameCount(file.map)} frames`);

    const step = speed && stepOf(speed, source, timeline);
    const k0 = naturalSlope(source, timeline);
    const row = (frame: number) => {
      const position = step ? timesWhole(frame, step) : positionAt(file!.map, frame);
      return {
        frame,
        source: position,
        speed: speed ? toNumber(speed) : speedAt(file!.map, frame, k0),
        made: !isWholeFrame(position),
      };
    };
    if (values['json']) {
      const reaches = file
        ? reachPhases(file.map).map(({ slope, clean, phase }) => ({ speed: slope / k0, clean, phase: phase ?? null }))
        : [{ speed: toNumber(speed!), clean: cleanSlope(toNumber(step!)) !== undefined, phase: 0 }];
      print(JSON.stringify({ frames: Array.from({ length: count }, (_, k) => row(k)), reaches }));
      return 0;
    }
    let lines = ['frame,source,speed,made'];
    for (let k = 0; k < count; k++) {
      const { frame, source: s, speed: v, made } = row(k);
      lines.push(`${frame},${s},${v},${made}`);
      if (lines.length >= 10_000) print(lines.splice(0).join('\n'));
    }
    if (lines.length) print(lines.join('\n'));
    lines = [];
    return 0;
  },
};
