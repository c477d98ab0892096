import type { Clip } from '../model/clip.js';
import type { Project } from '../model/project.js';
import { sourceOf } from '../reel/clips.js';
import { placeOf } from '../reel/places.js';
import { frameOfPosition, usableFrames } from '../sampling/dropped-repeats.js';
import { isInSource } from '../sampling/sample.js';
import { positionAt, slopeAt } from '../time-map/evaluate.js';
import { described, type MotionStretch, SAME_WAY, STILL, turn } from './directions.js';
import type { CameraMotion, SourceMotion } from './source-motion.js';

/** What a clip's picture as a whole does on the screen beside a cut, from frame to frame of the reel; a reversed clip's way is turned round. */
export type SideMotion = Omit<MotionStretch, 'from' | 'to'>;

/** How the pictures on either side of a cut move: the same way, against each other, across, or not to be compared. */
export interface CutMotion {
  readonly before: SideMotion;
  readonly after: SideMotion;
  readonly relation: 'together' | 'against' | 'across' | 'unlike';
  /** The angle between two shifts, 0…180. */
  readonly apart: number | undefined;
}

/** Frames of the reel on either side that are looked at. */
export const BESIDE_CUT = 6;

/** How a clip and the one after it move at their cut; nothing while the motion of either is not known there. */
export function cutMotion(
  project: Project,
  before: Clip,
  motionBefore: SourceMotion,
  after: Clip,
  motionAfter: SourceMotion,
): CutMotion | undefined {
  const frames = placeOf(project, before.id)?.frames ?? 0;
  const first = sideMotion(project, before, motionBefore, Math.max(0, frames - BESIDE_CUT), frames);
  const second = sideMotion(project, after, motionAfter, 0, BESIDE_CUT);
  if (!first || !second) return undefined;
  const apart =
    first.degrees !== undefined && second.degrees !== undefined ? turn(first.degrees, second.degrees) : undefined;
  return { before: first, after: second, relation: relationOf(first, second, apart), apart };
}

function relationOf(a: SideMotion, b: SideMotion, apart: number | undefined): CutMotion['relation'] {
  if (apart !== undefined) return apart <= SAME_WAY ? 'together' : apart >= 180 - SAME_WAY ? 'against' : 'across';
  if (a.kind !== b.kind || a.kind === 'unclear') return 'unlike';
  if (a.kind === 'still') return 'together';
  return a.perFrame * b.perFrame > 0 ? 'together' : 'against';
}

/**
 * A clip's motion on the screen from its frame `from` to `to` − 1: each pair of source frames counts as it is passed; past the
 * source's end a held picture rests. Nothing where its motion is not known.
 */
export function sideMotion(
  project: Project,
  clip: Clip,
  { pairs }: SourceMotion,
  from: number,
  to: number,
): SideMotion | undefined {
  const source = sourceOf(project, clip);
  const sums = { x: 0, y: 0, push: 0, roll: 0, sure: 0 };
  let [looked, way] = [0, 0];
  for (let k = from; k < to; k++) {
    const position = positionAt(clip.map, k);
    const beyond = !isInSource(position, usableFrames(source)) && clip.end === 'hold';
    const camera = beyond ? REST : pairs[Math.floor(frameOfPosition(source, position))]?.camera;
    if (!camera) continue;
    // In source frames a frame of the reel passes: below 0 in reverse, 0 in a freeze.
    const passed = slopeAt(clip.map, k);
    for (const field of ['x', 'y', 'push', 'roll'] as const) sums[field] += camera[field] * passed;
    sums.sure += camera.sure;
    way += Math.abs(passed);
    looked++;
  }
  if (looked === 0) return undefined;
  const mean = Object.fromEntries(
    Object.entries(sums).map(([field, sum]) => [field, sum / looked]),
  ) as unknown as CameraMotion;
  // Standing still is said of the film, however fast it is passed.
  return described(mean, Math.max(1e-9, (STILL * way) / looked));
}

const REST: CameraMotion = { x: 0, y: 0, push: 0, roll: 0, sure: 1 };

const WAYS = ['right', 'down right', 'down', 'down left', 'left', 'up left', 'up', 'up right'];

const wayOf = ({ degrees }: SideMotion) => WAYS[Math.round(degrees! / 45) % 8]!;

/** In words: moves left, grows, turns clockwise, stands still. */
export const motionWords = (side: SideMotion): string =>
  side.kind === 'shift'
    ? `moves ${wayOf(side)}`
    : side.kind === 'push'
      ? side.perFrame > 0
        ? 'grows'
        : 'shrinks'
      : side.kind === 'roll'
        ? `turns ${side.perFrame > 0 ? 'clockwise' : 'anticlockwise'}`
        : side.kind === 'still'
          ? 'stands still'
          : 'moves no one way';

/** In a sentence: which ways the pictures on either side of a cut move, and how far apart those are. */
export function waysSentence(cut: CutMotion): string {
  if (cut.relation !== 'together') return cutSentence(cut);
  // Two of them: moves becomes move.
  const words = motionWords(cut.after).replace(/^(\w+)s\b/, '$1');
  return `Both ${words}${cut.apart === undefined ? '' : `, ${Math.round(cut.apart)}° apart`}.`;
}

/** In a sentence: how the pictures on either side of a cut move, and how fast against each other. */
export function cutSentence({ before, after, relation, apart }: CutMotion): string {
  const degrees = apart === undefined ? '' : `, ${Math.round(apart)}° apart`;
  if (relation === 'together' && before.kind === 'still') return 'At the cut both pictures stand still.';
  if (relation === 'together') {
    const ratio = Math.abs(after.perFrame / before.perFrame);
    const pace =
      ratio > 1.15
        ? `the second ${ratio.toFixed(1)} times as fast`
        : ratio < 1 / 1.15
          ? `the first ${(1 / ratio).toFixed(1)} times as fast`
          : 'equally fast';
    return `At the cut each picture ${motionWords(after)}${degrees}, ${pace}.`;
  }
  const clash = relation === 'against' ? 'These fight: the' : 'At the cut the';
  return `${clash} first picture ${motionWords(before)}, the second ${motionWords(after)}${degrees}.`;
}
