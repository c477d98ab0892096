import type { CameraMotion, SourceMotion } from './source-motion.js';

/** A stretch of a source through which the picture as a whole moves one way. */
export interface MotionStretch {
  /** First and last frame. */
  readonly from: number;
  readonly to: number;
  readonly kind: 'still' | 'shift' | 'push' | 'roll' | 'unclear';
  /** Of a shift: where what is seen goes, degrees clockwise from the right, 0…360; the camera pans the other way. */
  readonly degrees: number | undefined;
  /** Per frame: of a shift shares of the picture's width, of a push growth, of a roll degrees clockwise. */
  readonly perFrame: number;
  /** 0…1: the share of the picture that moves so. */
  readonly sure: number;
}

/** Less than this share of the width a frame is standing still: half a pixel of 640. */
export const STILL = 0.0008;

/** Less of the picture than this going one way is no common motion. */
const UNCLEAR = 0.25;

/** Shifts within this many degrees go the same way. */
export const SAME_WAY = 30;

/** A stretch of fewer frames belongs to what is around it. */
const SHORTEST = 4;

/** Pairs on either side that are looked at together. */
const AROUND = 2;

type Kind = MotionStretch['kind'];

/** What a source's picture does, stretch by stretch, in the order of its frames. Kept for as long as the motion lives. */
export function motionStretches(motion: SourceMotion): readonly MotionStretch[] {
  let stretches = known.get(motion);
  if (!stretches) known.set(motion, (stretches = findStretches(motion)));
  return stretches;
}

const known = new WeakMap<SourceMotion, readonly MotionStretch[]>();

function findStretches({ pairs }: SourceMotion): MotionStretch[] {
  const cameras = pairs.map((_, n) =>
    steadied(pairs.slice(Math.max(0, n - AROUND), n + AROUND + 1).map((p) => p.camera)),
  );
  let runs: number[][] = [];
  for (const [n, camera] of cameras.entries()) {
    const last = runs.at(-1);
    const mean = last && meanOf(last.map((i) => cameras[i]!));
    if (last && mean && goesOn(mean, camera) && !Number.isNaN(pairs[n]!.exposure)) last.push(n);
    else runs.push([n]);
  }
  // The shortest first, each joined to the longer one beside it.
  for (;;) {
    const short = runs.map((run, i) => ({ run, i })).filter(({ run }) => run.length < SHORTEST);
    if (short.length === 0 || runs.length === 1) break;
    const { i } = short.reduce((a, b) => (b.run.length < a.run.length ? b : a));
    const to = (runs[i - 1]?.length ?? -1) >= (runs[i + 1]?.length ?? -1) ? i - 1 : i + 1;
    const joined = [...runs[Math.min(i, to)]!, ...runs[Math.max(i, to)]!];
    runs = runs.toSpliced(Math.min(i, to), 2, joined);
  }
  return runs.map((run) => describe(run[0]!, run.at(-1)! + 1, meanOf(run.map((i) => cameras[i]!))));
}

function goesOn(mean: CameraMotion, next: CameraMotion): boolean {
  const kind = kindOf(mean);
  if (kind !== kindOf(next)) return false;
  if (kind === 'shift') return turn(degreesOf(mean), degreesOf(next)) <= SAME_WAY;
  if (kind === 'push') return mean.push * next.push > 0;
  return kind !== 'roll' || mean.roll * next.roll > 0;
}

/** What a picture as a whole does; less than `still` of its width a frame is nothing. */
function kindOf({ x, y, push, roll, sure }: CameraMotion, still = STILL): Kind {
  if (sure < UNCLEAR) return 'unclear';
  // Each as the way of a point at the picture's edge.
  const ways = [
    ['shift', Math.hypot(x, y)],
    ['push', Math.abs(push) / 2],
    ['roll', (Math.abs(roll) * Math.PI) / 360],
  ] as const;
  const [kind, most] = ways.reduce((a, b) => (b[1] > a[1] ? b : a));
  return most < still ? 'still' : kind;
}

/** Degrees clockwise from the right, 0…360, of where what is seen goes. */
const degreesOf = ({ x, y }: CameraMotion): number => ((Math.atan2(y, x) * 180) / Math.PI + 360) % 360;

/** The smaller angle between two directions, 0…180 degrees. */
export const turn = (a: number, b: number): number => {
  const off = Math.abs(a - b) % 360;
  return Math.min(off, 360 - off);
};

/** A motion in its own terms: what it does, which way, how far from frame to frame. */
export function described(camera: CameraMotion, still = STILL): Omit<MotionStretch, 'from' | 'to'> {
  const kind = kindOf(camera, still);
  const perFrame = {
    still: 0,
    unclear: 0,
    shift: Math.hypot(camera.x, camera.y),
    push: camera.push,
    roll: camera.roll,
  }[kind];
  return { kind, degrees: kind === 'shift' ? degreesOf(camera) : undefined, perFrame, sure: camera.sure };
}

const describe = (from: number, to: number, camera: CameraMotion): MotionStretch => ({
  from,
  to,
  ...described(camera),
});

const FIELDS = ['x', 'y', 'push', 'roll', 'sure'] as const;

const combined = (cameras: readonly CameraMotion[], combine: (values: number[]) => number): CameraMotion =>
  Object.fromEntries(FIELDS.map((field) => [field, combine(cameras.map((c) => c[field]))])) as unknown as CameraMotion;

const meanOf = (cameras: readonly CameraMotion[]) =>
  combined(cameras, (values) => values.reduce((sum, v) => sum + v, 0) / values.length);

const steadied = (cameras: readonly CameraMotion[]) =>
  combined(cameras, (values) => values.sort((a, b) => a - b)[values.length >> 1]!);
