import { array, finite, object, onlyFields } from '../foundation/readers.js';
import { checkEase } from './ease.js';
import { checkTimeMap, type TimeMap } from './time-map.js';

/** Reads a time map as documents hold it. Throws `InvalidInput` naming the place. */
export function readMap(value: unknown, field: string): TimeMap {
  const map = object(value, field);
  onlyFields(map, ['vertices', 'bends'], field);
  const vertices = array(map['vertices'], `${field}.vertices`, 100_000).map((v, i) => {
    const at = `${field}.vertices[${i}]`;
    const vertex = object(v, at);
    return { t: finite(vertex['t'], `${at}.t`), s: finite(vertex['s'], `${at}.s`) };
  });
  const bends = array(map['bends'], `${field}.bends`, 100_000).map((b, i) => {
    const at = `${field}.bends[${i}]`;
    const bend = object(b, at);
    return {
      widthFrames: finite(bend['widthFrames'], `${at}.widthFrames`),
      ease: checkEase(bend['ease'], `${at}.ease`),
      ...(bend['wanted'] !== undefined && { wanted: finite(bend['wanted'], `${at}.wanted`) }),
    };
  });
  return checkTimeMap({ vertices, bends }, field);
}
