import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, onlyFields, string, whole } from '../foundation/readers.js';
import { formatRate, parseRate, type Rate } from '../time/rate.js';
import { checkEase } from './ease.js';
import { type Bend, checkTimeMap, HARD, type TimeMap } from './time-map.js';

/** A time map as a file of its own; rates are part of it because k₀ is. See docs/formats.md. */
export interface MapFile {
  readonly sourceRate: Rate | undefined;
  readonly timelineRate: Rate | undefined;
  readonly map: TimeMap;
}

/** Reads a map file's text. Throws `InvalidInput` whose field is `name` and the place in the file. */
export function parseMapFile(text: string, name = 'map'): MapFile {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    throw new InvalidInput(name, `is not JSON (${(error as Error).message})`);
  }
  const file = object(json, name);
  onlyFields(file, ['version', 'sourceRate', 'timelineRate', 'vertices', 'bends'], name);
  if (file['version'] !== 1)
    throw new InvalidInput(`${name}, version`, `is ${JSON.stringify(file['version'])}, but only version 1 can be read`);
  const readRate = (key: string) =>
    file[key] === undefined ? undefined : parseRate(string(file[key], `${name}, ${key}`), `${name}, ${key}`);
  const vertices = array(file['vertices'], `${name}, vertices`).map((pair, i) => {
    const at = `${name}, vertices[${i}]`;
    const values = array(pair, at);
    if (values.length !== 2) throw new InvalidInput(at, 'must be a pair [t, s]');
    return { t: finite(values[0], at), s: finite(values[1], at) };
  });
  const bends: Bend[] = vertices.map(() => HARD);
  const taken = new Set<number>();
  array(file['bends'] ?? [], `${name}, bends`).forEach((entry, i) => {
    const at = `${name}, bends[${i}]`;
    const bend = object(entry, at);
    onlyFields(bend, ['at', 'width', 'ease'], at);
    const index = whole(bend['at'], `${at}, at`);
    if (index < 1 || index >= vertices.length - 1)
      throw new InvalidInput(`${at}, at`, `vertex ${index} is not an interior vertex`);
    if (taken.has(index)) throw new InvalidInput(`${at}, at`, `vertex ${index} has a bend already`);
    taken.add(index);
    bends[index] = {
      widthFrames: finite(bend['width'], `${at}, width`),
      ease: checkEase(bend['ease'] ?? 'soft', `${at}, ease`),
    };
  });
  return {
    sourceRate: readRate('sourceRate'),
    timelineRate: readRate('timelineRate'),
    map: checkTimeMap({ vertices, bends }, name),
  };
}

/** The text of a map file, which `parseMapFile` reads back to the same map. */
export function formatMapFile(file: MapFile): string {
  return JSON.stringify({
    version: 1,
    ...(file.sourceRate && { sourceRate: formatRate(file.sourceRate) }),
    ...(file.timelineRate && { timelineRate: formatRate(file.timelineRate) }),
    vertices: file.map.vertices.map((v) => [v.t, v.s]),
    bends: file.map.bends.flatMap((b, at) => (b.widthFrames > 0 ? [{ at, width: b.widthFrames, ease: b.ease }] : [])),
  });
}
