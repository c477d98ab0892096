import { cadenceOfSpeed, describeCadence, nearestEvenSpeed, slowestRealSpeed } from '../cadence/cadence.js';
import { missingSource } from '../clip/clip-frames.js';
import { clipSlope, sourceOf, type Clip, type Project } from '../project/project.js';
import { percentText } from '../speed/speed-text.js';
import { moveVertex, setBend, setReachSpeed, widestBend } from '../time-map/edit.js';
import { reachSlope, type TimeMap } from '../time-map/time-map.js';

/** Something about a clip's curve that will be seen, computed from the curve, with what would mend it. */
export interface Advice {
  /** The same for the same trouble at the same place, so that it can be dismissed. */
  readonly id: string;
  /** The timeline frame of the clip it concerns. */
  readonly frame: number;
  readonly sentence: string;
  readonly remedy: { readonly label: string; readonly apply: (map: TimeMap) => TimeMap } | undefined;
}

/** Speeds this many times apart jump visibly when nothing is between them. */
const VISIBLE_JUMP = 1.4;
const SMOOTH_FRAMES = 12;

/** All advice on a clip, in the order of its timeline. */
export function adviseClip(project: Project, clip: Clip): Advice[] {
  const k0 = clipSlope(project, clip);
  return [...hardChanges(clip.map, k0), ...unevenReaches(project, clip, k0), ...sourceRunsOut(project, clip)].sort((a, b) => a.frame - b.frame);
}

/** A change of speed with no bend: the eye sees the step. Into or out of a freeze it is often wanted, so those are left alone. */
function hardChanges(map: TimeMap, k0: number): Advice[] {
  return map.vertices.slice(1, -1).flatMap(({ t }, n): Advice[] => {
    const index = n + 1;
    const [before, after] = [reachSlope(map, index - 1) / k0, reachSlope(map, index) / k0];
    if (map.bends[index]!.widthFrames > 0 || before === 0 || after === 0) return [];
    const ratio = Math.abs(before) > Math.abs(after) ? before / after : after / before;
    if (ratio > 0 && ratio < VISIBLE_JUMP) return [];
    const room = widestBend(map, index, 'soft');
    const widthFrames = Math.min(SMOOTH_FRAMES, Math.floor(room));
    return [
      {
        id: `hard-${index}`,
        frame: t,
        sentence: `Speed jumps from ${percentText(before)} to ${percentText(after)} at frame ${Math.round(t)}: it will look choppy.`,
        remedy: widthFrames > 0 ? { label: `Smooth over ${widthFrames} frames`, apply: (m) => setBend(m, index, { widthFrames, ease: 'soft' }) } : undefined,
      },
    ];
  });
}

/** Under Step, a speed whose frames are held or skipped unevenly, with the nearest that is even. */
function unevenReaches(project: Project, clip: Clip, k0: number): Advice[] {
  const { map, method } = clip;
  if (method !== 'step') return [];
  const { reel } = project;
  const source = sourceOf(project, clip);
  return map.vertices.slice(0, -1).flatMap(({ t }, index): Advice[] => {
    const speed = reachSlope(map, index) / k0;
    if (speed === 0) return [];
    const cadence = cadenceOfSpeed(speed, source.readAs, reel.rate);
    if (cadence?.even) return [];
    const even = nearestEvenSpeed(speed, source.readAs, reel.rate, 1);
    if (even !== undefined && Math.abs(even - speed) < 1e-9) return [];
    const slow = Math.abs(speed) < slowestRealSpeed(source.readAs, reel.rate) ? 'held' : 'skipped';
    const pattern = cadence && !cadence.even ? ` (${describeCadence(cadence)})` : '';
    return [
      {
        id: `uneven-${index}-${Math.round(speed * 1e4)}`,
        frame: t,
        sentence: `At ${percentText(speed)} frames are ${slow} unevenly under Step${pattern}.`,
        remedy: even === undefined ? undefined : { label: `Even at ${percentText(even)}`, apply: (m) => setReachSpeed(m, index, even, k0, 'content') },
      },
    ];
  });
}

/** Frames past the end of the source, with the clip ended where the source does when only its last reach runs over. */
function sourceRunsOut(project: Project, clip: Clip): Advice[] {
  const { frames } = sourceOf(project, clip);
  const missing = missingSource(clip.map, frames);
  if (!missing) return [];
  const { vertices } = clip.map;
  const [before, end] = [vertices[vertices.length - 2]!, vertices[vertices.length - 1]!];
  const slope = (end.s - before.s) / (end.t - before.t);
  const stop = before.t + (frames - before.s) / slope;
  const lastOnly = slope > 0 && before.s >= 0 && before.s < frames && missing.first >= before.t;
  return [
    {
      id: 'source-runs-out',
      frame: missing.first,
      sentence: `${missing.count === 1 ? 'One frame asks' : `${missing.count} frames ask`} for source that is not there, from frame ${missing.first} on.`,
      remedy: lastOnly ? { label: 'End with the source', apply: (m) => moveVertex(m, vertices.length - 1, { t: stop, s: frames }) } : undefined,
    },
  ];
}
