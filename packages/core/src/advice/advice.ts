import { cleanRates } from '../cadence/clean-rates.js';
import { cadenceOfSpeed, nearestEvenSpeed, slowestRealSpeed } from '../cadence/cadence.js';
import type { Clip } from '../model/clip.js';
import { isGroup } from '../model/group.js';
import type { Project } from '../model/project.js';
import { joinAfter, joinBefore } from '../reel/active-joins.js';
import { clipSlope, sourceOf } from '../reel/clips.js';
import { interpolationOf } from '../reel/interpolation.js';
import { usableFrames } from '../sampling/dropped-repeats.js';
import { missingSource } from '../sampling/frame-count.js';
import { methodAt } from '../sampling/interpolation.js';
import { moveVertex, setBend, setReachSpeed, widestBend } from '../time-map/edit.js';
import { bendWindow, reachSlope, type TimeMap } from '../time-map/time-map.js';
import { framesPerSecond, speakRate } from '../time/rate.js';
import { percentText } from '../time/speed-text.js';

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

/** A bend this narrow is felt as a jump. */
const SQUEEZED_FRAMES = 4;

/** Faster than this the eye cannot follow what moves: at 24 fps more than 0.4 s of source pass from frame to frame. */
const FOLLOWED_SPEED = 10;

/** All advice on a clip, in the order of its timeline. */
export function adviseClip(project: Project, clip: Clip): Advice[] {
  const k0 = clipSlope(project, clip);
  return [
    ...hardChanges(clip.map, k0),
    ...squeezedBends(clip.map, k0),
    ...belowRealRate(project, clip, k0),
    ...unevenReaches(project, clip, k0),
    ...tooFast(project, clip, k0),
    ...sourceRunsOut(project, clip),
    ...neverClean(project, clip),
  ].sort((a, b) => a.frame - b.frame);
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
        remedy:
          widthFrames > 0
            ? {
                label: `Smooth over ${widthFrames} frames`,
                apply: (m) => setBend(m, index, { widthFrames, ease: 'soft' }),
              }
            : undefined,
      },
    ];
  });
}

/** A bend that a neighbour leaves only a sliver of room, between speeds that differ visibly. */
function squeezedBends(map: TimeMap, k0: number): Advice[] {
  return map.vertices.slice(1, -1).flatMap(({ t }, n): Advice[] => {
    const index = n + 1;
    const { widthFrames, ease } = map.bends[index]!;
    const [before, after] = [reachSlope(map, index - 1), reachSlope(map, index)];
    const differ = Math.abs(after - before) > (VISIBLE_JUMP - 1) * Math.max(Math.abs(before), Math.abs(after));
    if (
      widthFrames === 0 ||
      widthFrames >= SQUEEZED_FRAMES ||
      !differ ||
      widestBend(map, index, ease) > widthFrames + 0.01
    )
      return [];
    const neighbour = [index - 1, index + 1].find(
      (i) => map.bends[i]!.widthFrames > 2 * SQUEEZED_FRAMES && touches(map, i, index),
    );
    if (neighbour === undefined) return [];
    const give = (m: TimeMap) =>
      setBend(setBend(m, neighbour, { widthFrames: m.bends[neighbour]!.widthFrames / 2 }), index, {
        widthFrames: SMOOTH_FRAMES,
      });
    return [
      {
        id: `squeezed-${index}`,
        frame: t,
        sentence: `The bend at frame ${Math.round(t)} has ${widthFrames.toFixed(1)} frames for ${percentText(before / k0)} into ${percentText(after / k0)}: the one beside it leaves no more.`,
        remedy:
          give(map).bends[index]!.widthFrames >= SQUEEZED_FRAMES
            ? { label: 'Halve the one beside it', apply: give }
            : undefined,
      },
    ];
  });
}

function touches(map: TimeMap, a: number, b: number): boolean {
  const [first, second] = [bendWindow(map, Math.min(a, b)), bendWindow(map, Math.max(a, b))];
  return second.from - first.to < 0.01;
}

/** Whether a reach is the peak of a ramp join: it lasts a few frames, and another speed there would take the join off. */
const races = (project: Project, clip: Clip, reach: number): boolean =>
  (reach === 0 && joinBefore(project, clip.id) !== undefined) ||
  (reach === clip.map.vertices.length - 2 && joinAfter(project, clip.id) !== undefined);

/** A speed the source has too few frames for: they have to be held, or blended. What Flow makes of them is seen frame by frame, not told by the speed. */
function belowRealRate(project: Project, clip: Clip, k0: number): Advice[] {
  const source = sourceOf(project, clip);
  if (isGroup(source)) return [];
  const { readAs } = source;
  const making = interpolationOf(project, clip);
  const slowest = slowestRealSpeed(readAs, project.reel.rate);
  return clip.map.vertices.slice(0, -1).flatMap(({ t }, index): Advice[] => {
    const speed = reachSlope(clip.map, index) / k0;
    const method = methodAt(making, t);
    if (races(project, clip, index) || method === 'flow' || speed === 0) return [];
    if (Math.abs(speed) > slowest * (1 - 1e-6)) return [];
    // Held unevenly is said already, and worse.
    if (method === 'step' && !cadenceOfSpeed(speed, readAs, project.reel.rate)?.even) return [];
    const shown = `${Math.round(Math.abs(speed) * framesPerSecond(readAs) * 10) / 10} source frames a second`;
    const how = method === 'step' ? 'are held: it will stutter' : 'are blended: moving edges will look double';
    const bears = Math.sign(speed) * slowest;
    return [
      {
        id: `below-${index}-${Math.round(speed * 1e4)}`,
        frame: t,
        sentence: `${percentText(speed)} shows ${shown}, and those between ${how}.`,
        remedy:
          slowest > 1
            ? undefined
            : { label: `${percentText(bears)}, all real`, apply: (m) => setReachSpeed(m, index, bears, k0, 'content') },
      },
    ];
  });
}

/** So much source in so few frames that nothing of it can be followed. */
function tooFast(project: Project, clip: Clip, k0: number): Advice[] {
  const fps = framesPerSecond(project.reel.rate);
  return clip.map.vertices.slice(0, -1).flatMap(({ t }, index): Advice[] => {
    const speed = reachSlope(clip.map, index) / k0;
    if (races(project, clip, index) || Math.abs(speed) <= FOLLOWED_SPEED) return [];
    const apart = Math.abs(speed) / fps;
    return [
      {
        id: `fast-${index}-${Math.round(speed * 100)}`,
        frame: t,
        sentence: `At ${percentText(speed)} each frame is ${apart.toFixed(2)} s of source after the last: too fast to be read.`,
        remedy: {
          label: `Slow to ${percentText(Math.sign(speed) * FOLLOWED_SPEED)}`,
          apply: (m) => setReachSpeed(m, index, Math.sign(speed) * FOLLOWED_SPEED, k0, 'content'),
        },
      },
    ];
  });
}

/** Under Step, a speed whose frames are held or skipped unevenly, with the nearest that is even. */
function unevenReaches(project: Project, clip: Clip, k0: number): Advice[] {
  const { map } = clip;
  const making = interpolationOf(project, clip);
  const { reel } = project;
  const source = sourceOf(project, clip);
  // What is even inside a group is for its clips to say.
  if (isGroup(source)) return [];
  return map.vertices.slice(0, -1).flatMap(({ t }, index): Advice[] => {
    const speed = reachSlope(map, index) / k0;
    if (methodAt(making, t) !== 'step' || speed === 0 || Math.abs(speed) > FOLLOWED_SPEED) return [];
    if (races(project, clip, index)) return [];
    const cadence = cadenceOfSpeed(speed, source.readAs, reel.rate);
    if (cadence?.even) return [];
    const even = nearestEvenSpeed(speed, source.readAs, reel.rate, 1);
    if (even !== undefined && Math.abs(even - speed) < 1e-9) return [];
    const slow = Math.abs(speed) < slowestRealSpeed(source.readAs, reel.rate) ? 'held' : 'skipped';
    const holds = cadence && cadence.holds.length > 1 ? `: for ${cadence.holds.join(', ')} frames` : '';
    const repeats = cadence && cadence.holds.length === 1 ? `, in a pattern of ${cadence.realEvery} frames` : '';
    return [
      {
        id: `uneven-${index}-${Math.round(speed * 1e4)}`,
        frame: t,
        sentence: `At ${percentText(speed)} frames are ${slow} unevenly under Step${holds}${repeats}.`,
        remedy:
          even === undefined
            ? undefined
            : { label: `Even at ${percentText(even)}`, apply: (m) => setReachSpeed(m, index, even, k0, 'content') },
      },
    ];
  });
}

/** A rate that no speed of few digits makes clean here, with the rates that would; told once for each source. */
function neverClean(project: Project, clip: Clip): Advice[] {
  const source = sourceOf(project, clip);
  const { rate: reelRate } = project.reel;
  const rates = isGroup(source) ? undefined : cleanRates(source.readAs, reelRate);
  if (!rates) return [];
  const [is, on] = [speakRate(source.readAs), speakRate(reelRate)];
  return [
    {
      id: `never-clean-${source.id}-${is}-${on}`,
      frame: 0,
      sentence: `${is} fps on a reel of ${on} is never clean at 100, 50 or 25 %. Read as ${speakRate(rates.readAs)}, or on a reel of ${speakRate(rates.timeline)}, it can be.`,
      remedy: undefined,
    },
  ];
}

/** Frames past the end of the source, with the clip ended where the source does when only its last reach runs over. */
function sourceRunsOut(project: Project, clip: Clip): Advice[] {
  const frames = usableFrames(sourceOf(project, clip));
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
      remedy: lastOnly
        ? { label: 'End with the source', apply: (m) => moveVertex(m, vertices.length - 1, { t: stop, s: frames }) }
        : undefined,
    },
  ];
}
