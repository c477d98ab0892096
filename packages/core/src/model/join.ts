import { InvalidInput } from '../foundation/errors.js';
import { array, finite, object, oneOf, onlyFields, readId, unique } from '../foundation/readers.js';
import { checkEase, type Ease } from '../time-map/ease.js';
import { MAX_SPEED, MIN_SPEED } from '../time-map/edit.js';
import { readMap } from '../time-map/read-map.js';
import { mapDuration, type TimeMap } from '../time-map/time-map.js';
import { type Blur, checkBlur, DEFAULT_SHUTTER, readBlur } from './blur.js';
import { checkWhoosh, readWhoosh, type Whoosh } from './whoosh.js';

/** What stays when a clip is ramped: its place on the reel, or what it shows. */
const JOIN_KEEPS = ['slot', 'content'] as const;

export type JoinKeeps = (typeof JOIN_KEEPS)[number];

/** How two neighbouring clips race into each other. */
export interface JoinChoice {
  /** Timeline frames of the ramp into the cut and of the one out of it. */
  readonly into: number;
  readonly outOf: number;
  /** Frames on either side of the cut that are at the peak. */
  readonly hold: number;
  /** Speed at the cut, 1 = 100 %. */
  readonly peak: number;
  /** How the speed rises; out of the cut it falls the mirrored way. */
  readonly ease: Ease;
  readonly keeps: JoinKeeps;
  /** Source frames that are left unused beyond what is shown, at either side of the cut. */
  readonly spare: number;
  /** Motion on the screen of the second clip against the first's, at the same speed; null: both speeds are the peak. */
  readonly matched: number | null;
  /** Motion blur through both ramps; none: as the clips have it. */
  readonly blur: Blur | null;
  /** Rushing air that goes with it. */
  readonly whoosh: Whoosh | null;
}

/** What a join made of a clip's curve, and of what: enough to take it off again. */
export interface RampUndo {
  readonly original: TimeMap;
  readonly ramped: TimeMap;
  /** Where what the ramp took the place of begins in `original`: in timeline frames from the end that is not at the cut. */
  readonly startFrames: number;
  /** The rest of the clip was slowed by this factor to leave source for the ramp; 1: it was not. */
  readonly slowed: number;
}

/** A join of two neighbours on the reel, and how it comes off again. */
export interface RampJoin extends JoinChoice {
  readonly id: string;
  /** The clips' ids. */
  readonly before: string;
  readonly after: string;
  readonly undo: { readonly before: RampUndo; readonly after: RampUndo };
  /** What of its clips gives when they have to land again because of it; absent, as in documents from before there was a choice: their speeds. */
  readonly lands?: 'places';
}

export const DEFAULT_JOIN: JoinChoice = {
  into: 16,
  outOf: 16,
  hold: 2,
  peak: 4,
  ease: 'soft',
  keeps: 'slot',
  spare: 0,
  matched: null,
  blur: DEFAULT_SHUTTER,
  whoosh: null,
};

export const choiceOf = ({
  into,
  outOf,
  hold,
  peak,
  ease,
  keeps,
  spare,
  matched,
  blur,
  whoosh,
}: JoinChoice): JoinChoice => ({
  into,
  outOf,
  hold,
  peak,
  ease,
  keeps,
  spare,
  matched,
  blur,
  whoosh,
});

/** Throws `InvalidInput` naming what cannot be. */
export function checkJoin(
  { into, outOf, hold, peak, ease, spare, matched, blur, whoosh }: JoinChoice,
  field = 'join',
): void {
  for (const [name, value] of Object.entries({ into, outOf }))
    if (!(value >= 2 && value <= 10_000))
      throw new InvalidInput(`${field}.${name}`, `${value} is not a length; write 2 to 10000 frames`);
  if (!(hold >= 0 && hold <= Math.min(into, outOf)))
    throw new InvalidInput(`${field}.hold`, `${hold} frames at the peak do not go into ramps of ${into} and ${outOf}`);
  if (!(peak >= MIN_SPEED && peak <= MAX_SPEED)) throw new InvalidInput(`${field}.peak`, `${peak} is not a speed`);
  if (!(spare >= 0 && spare <= 1e6)) throw new InvalidInput(`${field}.spare`, `${spare} is not a number of frames`);
  if (matched !== null && !(matched >= 1e-3 && matched <= 1e3))
    throw new InvalidInput(`${field}.matched`, 'the motion of the two clips is too far apart to be matched');
  if (whoosh) checkWhoosh(whoosh, `${field}.whoosh`);
  if (blur) checkBlur(blur, `${field}.blur`);
  checkEase(ease, `${field}.ease`);
}

/** Reads the joins of a reel from a document; `items` are the ids on it. Throws `InvalidInput` naming the place. */
export function readJoins(value: unknown, field: string, items: readonly { readonly id: string }[]): RampJoin[] {
  const joins = array(value, field, 100_000).map((join, i) => readJoin(join, `${field}[${i}]`));
  unique(joins, field);
  joins.forEach(({ before, after }, i) => {
    for (const [name, id] of Object.entries({ before, after }))
      if (!items.some((item) => item.id === id))
        throw new InvalidInput(`${field}[${i}].${name}`, `"${id}" is not on the reel`);
  });
  return joins;
}

function readJoin(value: unknown, field: string): RampJoin {
  const j = object(value, field);
  onlyFields(
    j,
    [
      'id',
      'before',
      'after',
      'into',
      'outOf',
      'hold',
      'peak',
      'ease',
      'keeps',
      'spare',
      'matched',
      'blur',
      'whoosh',
      'undo',
      'lands',
    ],
    field,
  );
  const number = (name: string) => finite(j[name], `${field}.${name}`);
  const undo = object(j['undo'], `${field}.undo`);
  onlyFields(undo, ['before', 'after'], `${field}.undo`);
  const join: RampJoin = {
    id: readId(j['id'], `${field}.id`),
    before: readId(j['before'], `${field}.before`),
    after: readId(j['after'], `${field}.after`),
    into: number('into'),
    outOf: number('outOf'),
    hold: number('hold'),
    peak: number('peak'),
    ease: checkEase(j['ease'], `${field}.ease`),
    keeps: oneOf(j['keeps'], JOIN_KEEPS, `${field}.keeps`),
    spare: number('spare'),
    matched: j['matched'] === null ? null : number('matched'),
    blur: j['blur'] === null ? null : readBlur(j['blur'], `${field}.blur`),
    whoosh: j['whoosh'] === null ? null : readWhoosh(j['whoosh'], `${field}.whoosh`),
    undo: {
      before: readRampUndo(undo['before'], `${field}.undo.before`),
      after: readRampUndo(undo['after'], `${field}.undo.after`),
    },
    ...(j['lands'] !== undefined && { lands: oneOf(j['lands'], ['places'] as const, `${field}.lands`) }),
  };
  checkJoin(join, field);
  return join;
}

function readRampUndo(value: unknown, field: string): RampUndo {
  const undo = object(value, field);
  onlyFields(undo, ['original', 'ramped', 'startFrames', 'slowed'], field);
  const [startFrames, slowed] = [
    finite(undo['startFrames'], `${field}.startFrames`),
    finite(undo['slowed'], `${field}.slowed`),
  ];
  if (!(slowed > 0 && slowed <= 1)) throw new InvalidInput(`${field}.slowed`, 'must lie above 0 and up to 1');
  const original = readMap(undo['original'], `${field}.original`);
  if (!(startFrames > 0 && startFrames < mapDuration(original)))
    throw new InvalidInput(`${field}.startFrames`, 'must lie inside the original curve');
  return { original, ramped: readMap(undo['ramped'], `${field}.ramped`), startFrames, slowed };
}
