import { mapFrameCount, reachSlope, type TimeMap } from '../time-map/time-map.js';
import { realFrames } from '../clean/real-frames.js';

/** How a landing was met: places moved, speeds changed, the in point slipped, or the cut moved. */
export const LANDING_WAYS = ['places', 'speeds', 'in', 'cut'] as const;

export type LandingWay = (typeof LANDING_WAYS)[number];

/** What a landing did to a clip's curve, and what it cost. */
export interface LandingReport {
  readonly way: LandingWay;
  /** Frames that are whole source frames, before and after, and how many the clip has. */
  readonly real: { readonly before: number; readonly after: number; readonly of: number };
  /** By how many timeline frames the place that moved farthest did. */
  readonly moved: number;
  /** Source frames by which the in and the out point came later. */
  readonly trimmed: { readonly in: number; readonly out: number };
  /** By how many frames the clip is longer. */
  readonly longer: number;
  /** Stretches of another speed that were put in. */
  readonly stretches: number;
  /** Reaches that have another clean speed from end to end. */
  readonly reaches: number;
}

/** What was done between two curves of a clip. */
export function landingReport(before: TimeMap, after: TimeMap, way: LandingWay): LandingReport {
  const [was, is] = [realFrames(before), realFrames(after)];
  const inner = (map: TimeMap) => map.vertices.slice(1, -1);
  const nearest = (t: number) => Math.min(...inner(after).map((v) => Math.abs(v.t - t)));
  const speeds = (map: TimeMap) => map.vertices.slice(1).map((_, i) => reachSlope(map, i));
  const added = speeds(after).filter((slope) => speeds(before).every((was) => Math.abs(slope - was) > 1e-6));
  const isDivided = after.vertices.length > before.vertices.length;
  const trim = (at: number) => {
    const by = after.vertices.at(at)!.s - before.vertices.at(at)!.s;
    return Math.abs(by) < 1e-6 ? 0 : by;
  };
  return {
    way,
    real: { before: was.real, after: is.real, of: is.of },
    moved:
      after.vertices.length === before.vertices.length
        ? Math.max(0, ...inner(after).map((v, i) => Math.abs(v.t - inner(before)[i]!.t)))
        : Math.max(0, ...inner(before).map(({ t }) => nearest(t))),
    trimmed: { in: trim(0), out: trim(-1) },
    longer: mapFrameCount(after) - mapFrameCount(before),
    stretches: way === 'places' && isDivided ? added.length : 0,
    reaches: way === 'places' && !isDivided ? added.length : 0,
  };
}

/** A report in a line: what moved, and how many frames are real now. */
export function reportSentence({ way, real, moved, trimmed, longer, stretches, reaches }: LandingReport): string {
  const parts = [
    way === 'speeds'
      ? 'The speeds changed'
      : reaches === 0
        ? 'Every speed stays'
        : `${reaches === 1 ? 'One speed is' : `${reaches} speeds are`} a neighbouring clean one`,
    ...(way === 'cut' ? ['the cut moved'] : []),
    ...(way === 'places' && moved > 1e-6 ? [`where they change moved by up to ${frames(moved)}`] : []),
    ...(stretches > 0
      ? [
          stretches === 1
            ? 'a short stretch of another speed was put in'
            : `${stretches} short stretches of other speeds were put in`,
        ]
      : []),
    ...(trimmed.in !== 0 && trimmed.in === trimmed.out
      ? [`the clip shows source ${later(trimmed.in)}`]
      : ends(trimmed)),
    ...(longer !== 0 ? [`the clip is ${frames(Math.abs(longer))} ${longer > 0 ? 'longer' : 'shorter'}`] : []),
  ];
  return `${parts.join('; ')}. ${real.after} of ${real.of} frames real${real.after === real.before ? '' : ` (${real.before} before)`}.`;
}

const ends = ({ in: start, out: end }: LandingReport['trimmed']): string[] => [
  ...(start !== 0 ? [`the in point is ${later(start)}`] : []),
  ...(end !== 0 ? [`the out point is ${later(end)}`] : []),
];

const later = (source: number) =>
  `${Number(Math.abs(source).toFixed(2))} source frames ${source > 0 ? 'later' : 'earlier'}`;

function frames(count: number): string {
  const shown = Number(count.toFixed(2));
  return `${shown} frame${shown === 1 ? '' : 's'}`;
}
