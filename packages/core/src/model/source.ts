import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, oneOf, onlyFields, readId, string, unique, whole } from '../foundation/readers.js';
import { type Rate, rate } from '../time/rate.js';

/** What is known of a source apart from the items inside it. */
export interface SourceFacts {
  readonly id: string;
  readonly name: string;
  readonly frames: number;
  readonly nativeRate: Rate;
  /** The rate the editor takes it to have; only k₀ depends on it. */
  readonly readAs: Rate;
  readonly moments: readonly Moment[];
  /** Repeated frames that are left out; none are when there is no such choice. */
  readonly droppedRepeats: DroppedRepeats | null;
}

/** A source frame the editor cares about; `frame` counts native source frames. */
export interface Moment {
  readonly id: string;
  readonly frame: number;
  readonly name: string;
  /** Where motion breaks off; it goes on where nothing is said. */
  readonly kind?: MomentKind | undefined;
}

/** Things hit something here, or turn round: their motion is not continued through it. */
export const MOMENT_KINDS = ['hit', 'turn'] as const;
export type MomentKind = (typeof MOMENT_KINDS)[number];

/**
 * Repeats left out of a source. Keeping time, a frame stays at its native place and motion goes on evenly between those
 * that are left; closed up, the frames that are left follow one another, and the clip's source positions count them.
 */
export interface DroppedRepeats {
  readonly mode: 'keep' | 'close';
  /** The native frames that repeat the one before them, increasing; never frame 0. */
  readonly repeats: readonly number[];
}

/** A moment of a group is named by the clips and the moment it comes from, with dots between. */
export function readMomentId(value: unknown, field: string): string {
  const id = string(value, field, 2000);
  if (!/^[\w-]+(\.[\w-]+)*$/.test(id))
    throw new InvalidInput(field, 'must be made of letters, digits, _, - and dots between');
  return id;
}

export function readRate(value: unknown, field: string): Rate {
  const r = object(value, field);
  return rate(whole(r['num'], `${field}.num`), whole(r['den'], `${field}.den`), field);
}

/** A source, the content of a group not read yet. */
export function readSource(value: unknown, field: string): SourceFacts & { readonly content?: unknown } {
  const s = object(value, field);
  onlyFields(s, ['id', 'name', 'frames', 'nativeRate', 'readAs', 'moments', 'droppedRepeats', 'content'], field);
  const frames = whole(s['frames'], `${field}.frames`, 1);
  const isGroup = s['content'] !== undefined;
  const moments = array(s['moments'], `${field}.moments`).map((m, i) =>
    readMoment(m, `${field}.moments[${i}]`, frames, isGroup),
  );
  unique(moments, `${field}.moments`);
  return {
    id: readId(s['id'], `${field}.id`),
    name: string(s['name'], `${field}.name`),
    frames,
    nativeRate: readRate(s['nativeRate'], `${field}.nativeRate`),
    readAs: readRate(s['readAs'], `${field}.readAs`),
    moments,
    droppedRepeats:
      s['droppedRepeats'] === null ? null : readDroppedRepeats(s['droppedRepeats'], `${field}.droppedRepeats`, frames),
    ...(isGroup && { content: s['content'] }),
  };
}

function readDroppedRepeats(value: unknown, field: string, frames: number): DroppedRepeats {
  const droppedRepeats = object(value, field);
  onlyFields(droppedRepeats, ['mode', 'repeats'], field);
  const repeats = array(droppedRepeats['repeats'], `${field}.repeats`, frames).map((n, i) =>
    whole(n, `${field}.repeats[${i}]`, 1, frames - 1),
  );
  const unordered = repeats.findIndex((n, i) => i > 0 && n <= repeats[i - 1]!);
  if (unordered >= 0)
    throw new InvalidInput(`${field}.repeats[${unordered}]`, 'must be greater than the one before it');
  return { mode: oneOf(droppedRepeats['mode'], ['keep', 'close'] as const, `${field}.mode`), repeats };
}

/** Of footage a moment is one of its frames; of a group it is any time of it. */
function readMoment(value: unknown, field: string, frames: number, ofGroup: boolean): Moment {
  const m = object(value, field);
  onlyFields(m, ['id', 'frame', 'name', 'kind'], field);
  const frame = ofGroup ? finite(m['frame'], `${field}.frame`) : whole(m['frame'], `${field}.frame`, 0, frames - 1);
  if (!(frame >= 0 && frame <= frames - 1)) throw new InvalidInput(`${field}.frame`, `must lie in 0 to ${frames - 1}`);
  return {
    id: readMomentId(m['id'], `${field}.id`),
    frame,
    name: string(m['name'], `${field}.name`, 1000),
    ...(m['kind'] !== undefined && { kind: oneOf(m['kind'], MOMENT_KINDS, `${field}.kind`) }),
  };
}
