import { InvalidInput } from '../foundation/errors.js';
import { type Ease, easeCurve } from './ease.js';
import { mirrorEase } from './edit.js';
import { positionAt, slopeAt } from './evaluate.js';
import { concatMaps, splitMap } from './split.js';
import { bendWindow, checkTimeMap, HARD, mapDuration, TIME_EPSILON, type TimeMap, type Vertex } from './time-map.js';
import { percentText } from '../time/speed-text.js';

/** A change of speed into a clip's end: over `frames`, the last `hold` of them at `slope` (source frames per timeline frame). */
export interface Ramp {
  readonly frames: number;
  readonly hold: number;
  readonly slope: number;
  /** The slope at 100 %. */
  readonly normal: number;
  readonly ease: Ease;
}

/** The source that may be shown: first and last position. */
export interface Room {
  readonly from: number;
  readonly to: number;
}

export interface Ramped {
  readonly map: TimeMap;
  /** Where what the ramp took the place of began in the map before. */
  readonly startFrames: number;
  /** The factor on the speeds of the rest. */
  readonly slowed: number;
}

/** The rest of a clip is not slowed below this share of its speed to leave source for a ramp. */
export const MAX_SLOWED = 0.2;

/** Where a clip ends, and what of it must stay. */
export interface End {
  /** Where the cut is, in timeline frames. */
  readonly frames: number;
  /** Where the last frame that is shown lies. */
  readonly shown: number;
  /** What comes before this vertex is left as it is. */
  readonly free: number;
}

/**
 * Ends a clip in a ramp, so that it reaches the cut at the ramp's speed. The bend's window is the ramp without its hold, so by the
 * equal-area rule nothing before it moves. Where the source does not last, the rest of the clip is slowed by one factor until it
 * does. Throws `InvalidInput` where even that is not enough.
 */
export function rampEnd(map: TimeMap, end: End, ramp: Ramp, room: Room): Ramped {
  checkRoom(map, end, ramp);
  const begin = end.frames - ramp.frames;
  const [body] = splitMap(lasting(map, end.frames), begin);
  const ended = (slowed: number) => withRamp(slowedFrom(body, end.free, slowed), end.frames, ramp);
  const shown = (slowed: number) => positionAt(ended(slowed), end.shown);
  const limit = ramp.slope < 0 ? room.from : room.to;
  const beyond = (s: number) => (ramp.slope < 0 ? limit - s : s - limit);
  let slowed = 1;
  if (beyond(shown(1)) > 1e-6) {
    // What is shown last is linear in the factor.
    const [at0, at1] = [shown(0), shown(1)];
    slowed = (limit - at0) / (at1 - at0);
    if (!(slowed >= MAX_SLOWED && slowed < 1)) throw tooLittle(beyond(shown(1)), limit - shown(MAX_SLOWED), end, ramp);
  }
  return { map: checkTimeMap(ended(slowed), 'join'), startFrames: begin, slowed };
}

/**
 * The same, but where the source does not last the whole clip first shows content from before, by whole frames, so that every speed stays;
 * without spare source before it the rest is slowed.
 */
export function rampEndSlipping(map: TimeMap, end: End, ramp: Ramp, room: Room): Ramped {
  const wide = rampEnd(map, end, ramp, { from: -Infinity, to: Infinity });
  const shown = positionAt(wide.map, end.shown);
  const over = ramp.slope < 0 ? room.from - shown : shown - room.to;
  if (over <= 1e-6) return wide;
  const by = Math.ceil(over - 1e-6) * (ramp.slope < 0 ? 1 : -1);
  const slipped = wide.map.vertices.slice(0, -1).map(({ t, s }) => ({ t, s: s + by }));
  if (slipped.some(({ s }) => s < room.from - 1e-6 || s > room.to + 1e-6)) return rampEnd(map, end, ramp, room);
  const last = wide.map.vertices.at(-1)!;
  return { ...wide, map: { ...wide.map, vertices: [...slipped, { t: last.t, s: last.s + by }] } };
}

/** The same so that the frame shown last stays: the clip gets shorter by whole frames. */
export function rampEndKeepingContent(map: TimeMap, end: End, ramp: Ramp, room: Room): Ramped {
  checkRoom(map, end, ramp);
  const last = positionAt(map, end.shown);
  const past = (s: number) => (ramp.slope < 0 ? last - s : s - last) > 1e-6;
  const whole = lasting(map, end.frames);
  for (let frames = end.frames; frames - ramp.frames >= fixedUntil(map, end.free) + 1; frames--) {
    const ended = withRamp(splitMap(whole, frames - ramp.frames)[0], frames, ramp);
    if (past(positionAt(ended, frames - (end.frames - end.shown)))) continue;
    return { map: checkTimeMap(ended, 'join'), startFrames: frames - ramp.frames, slowed: 1 };
  }
  // Shorter than the ramp it cannot get; then the rest of it gives.
  return rampEnd(map, end, ramp, ramp.slope < 0 ? { ...room, from: last } : { ...room, to: last });
}

/** Takes the ramp at a clip's end off again: what it replaced in the map `was` is back, where the clip has got to by now. */
export function unrampEnd(
  map: TimeMap,
  was: TimeMap,
  { startFrames: from, slowed }: Omit<Ramped, 'map'>,
  free = 0,
): TimeMap {
  const at = map.vertices.length - 2;
  const begin = bendWindow(map, at).from;
  const corner = { t: begin, s: positionAt(map, begin) };
  const body = slowedFrom(
    { vertices: [...map.vertices.slice(0, at), corner], bends: [...map.bends.slice(0, at), HARD] },
    free,
    1 / slowed,
  );
  const [, tail] = splitMap(was, from);
  const slip = body.vertices.at(-1)!.s - tail.vertices[0]!.s;
  return concatMaps(body, { ...tail, vertices: tail.vertices.map((v) => ({ t: v.t, s: v.s + slip })) });
}

/** A map seen backward, its source too, so that speeds keep their sign: what is done to an end can be done to a beginning. */
export function turnedRound(map: TimeMap): TimeMap {
  const end = mapDuration(map);
  return {
    vertices: map.vertices.toReversed().map(({ t, s }) => ({ t: end - t, s: 0 - s })),
    bends: map.bends.toReversed().map((bend) => ({ ...bend, ease: mirrorEase(bend.ease) })),
  };
}

export const roomTurned = ({ from, to }: Room): Room => ({ from: -to, to: -from });

function checkRoom(map: TimeMap, { frames, free }: End, { frames: long, hold }: Ramp): void {
  if (!(hold >= 0 && hold <= long))
    throw new InvalidInput('hold', `${hold} frames at the peak do not go into a ramp of ${long}`);
  const fixed = fixedUntil(map, free);
  if (frames - long >= fixed + 1) return;
  const other = fixed > 0 ? `, ${Math.ceil(fixed)} of them in the ramp at its other end` : '';
  throw new InvalidInput(
    'length',
    `the clip has ${Math.ceil(frames)} frames${other}; a ramp of ${long} leaves nothing of it`,
  );
}

/** Where what may not be touched at a clip's beginning ends. */
const fixedUntil = (map: TimeMap, free: number): number => (free === 0 ? 0 : bendWindow(map, free).to);

function tooLittle(
  by: number,
  spare: number,
  { frames, shown }: End,
  { frames: long, hold, ease, slope, normal }: Ramp,
): InvalidInput {
  // How many frames at the peak what is shown comes to.
  const weight = hold - (frames - shown) + (long - hold) * easeCurve(ease).mean;
  const peak = Math.floor(Math.abs((slope + spare / weight) / normal) * 100) / 100;
  const offer =
    peak > 0 && slope * (slope + spare / weight) > 0
      ? `a peak of ${percentText(peak)} fits, or a shorter ramp`
      : 'make the ramp shorter';
  return new InvalidInput(
    'peak',
    `the source ends ${by.toFixed(1)} frames too early for this ramp, however slow the rest; ${offer}`,
  );
}

/** The map up to frame `frames`: cut off there, or going on as it ends. */
export function lasting(map: TimeMap, frames: number): TimeMap {
  const last = map.vertices.length - 1;
  const { t, s } = map.vertices[last]!;
  if (Math.abs(frames - t) <= TIME_EPSILON) return map;
  if (frames < t) return splitMap(map, frames)[0];
  return { ...map, vertices: map.vertices.with(last, { t: frames, s: s + (frames - t) * slopeAt(map, t) }) };
}

/** A map that ends where the ramp begins, with the ramp behind it, `frames` long. */
export function withRamp(body: TimeMap, frames: number, { frames: long, hold, slope, ease }: Ramp): TimeMap {
  const { t: begin, s } = body.vertices.at(-1)!;
  const before = slopeAt(body, begin);
  const bend = { widthFrames: long - hold, ease };
  const t = frames - hold - easeCurve(ease).mean * bend.widthFrames;
  const corner: Vertex = { t, s: s + before * (t - begin) };
  const end: Vertex = { t: frames, s: corner.s + slope * (frames - t) };
  return {
    vertices: [...body.vertices.slice(0, -1), corner, end],
    bends: [...body.bends.slice(0, -1), bend, body.bends.at(-1)!],
  };
}

/** All speeds from vertex `free` on by one factor; times stay. */
function slowedFrom(map: TimeMap, free: number, factor: number): TimeMap {
  if (factor === 1) return map;
  const pivot = map.vertices[free]!.s;
  return {
    ...map,
    vertices: map.vertices.map((v, i) => (i <= free ? v : { t: v.t, s: pivot + (v.s - pivot) * factor })),
  };
}
