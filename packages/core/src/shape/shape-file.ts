import { InvalidInput } from '../foundation/errors.js';
import { array, object, oneOf, onlyFields, string, whole } from '../foundation/readers.js';
import { checkEase, type Ease } from '../time-map/ease.js';
import { readMap } from '../time-map/read-map.js';
import type { TimeMap } from '../time-map/time-map.js';

/** A shape the editor keeps: for a bend, or (a map from (0, 0) to (1, 1)) for a whole clip. */
export type SavedShape = { readonly id: string; readonly name: string; readonly note: string } & (
  { readonly kind: 'bend'; readonly ease: Ease } | { readonly kind: 'clip'; readonly map: TimeMap }
);

const SHAPE_FILE_FORMAT = 'idle-bend-shapes';

/** Saved shapes as a file (docs/formats.md). */
export function writeShapes(shapes: readonly SavedShape[]): string {
  return `${JSON.stringify({ format: SHAPE_FILE_FORMAT, version: 1, shapes }, null, 2)}\n`;
}

/** Reads a file of shapes. Throws `InvalidInput` naming the shape and the field. */
export function readShapes(value: unknown): SavedShape[] {
  const file = object(value, 'shapes file');
  if (file['format'] !== SHAPE_FILE_FORMAT) throw new InvalidInput('shapes file', 'is not a file of Idle Bend shapes');
  if (whole(file['version'], 'shapes file, version') !== 1)
    throw new InvalidInput('shapes file, version', 'is newer than this program reads');
  onlyFields(file, ['format', 'version', 'shapes'], 'shapes file');
  return array(file['shapes'], 'shapes', 10_000).map((entry, i) => readShape(entry, `shapes[${i}]`));
}

export function readShape(value: unknown, field: string): SavedShape {
  const shape = object(value, field);
  const kind = oneOf(shape['kind'], ['bend', 'clip'] as const, `${field}.kind`);
  onlyFields(shape, ['id', 'name', 'note', 'kind', kind === 'bend' ? 'ease' : 'map'], field);
  const id = string(shape['id'], `${field}.id`, 64);
  if (!/^[\w-]+$/.test(id)) throw new InvalidInput(`${field}.id`, 'must be made of letters, digits, _ and -');
  const own = {
    id,
    name: string(shape['name'], `${field}.name`, 60),
    note: string(shape['note'], `${field}.note`, 300),
  };
  if (kind === 'bend') return { ...own, kind, ease: checkEase(shape['ease'], `${field}.ease`) };
  const map = readMap(shape['map'], `${field}.map`);
  const [first, last] = [map.vertices[0]!, map.vertices.at(-1)!];
  if (first.s !== 0 || last.t !== 1 || last.s !== 1)
    throw new InvalidInput(`${field}.map`, 'must run from (0, 0) to (1, 1)');
  return { ...own, kind, map };
}
