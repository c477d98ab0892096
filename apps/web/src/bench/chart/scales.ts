import { pieces, positionAt, type TimeMap } from '@idle-bend/core/time-map';
import { linearScale, type LinearScale } from '../../ui/linear-scale.ts';

/** Screen places of a clip's chart: x for timeline frames, y for source frames. */
export interface ChartScales {
  readonly x: LinearScale;
  readonly y: LinearScale;
}

/** Lowest and highest source position the curve reaches, its turning points among them. */
function sourceRange(map: TimeMap, sourceFrames: number): [number, number] {
  const last = map.vertices[map.vertices.length - 1]!.t;
  const marks = pieces(map)
    .flatMap(({ from, to }) => [from, to, (from + to) / 2])
    .filter((t) => t >= 0 && t <= last);
  const reached = marks.map((t) => positionAt(map, t));
  const low = Math.min(...reached);
  const high = Math.max(...reached);
  const room = Math.max(2, (high - low) * 0.03);
  return [Math.min(Math.max(0, low - room), low), Math.max(Math.min(sourceFrames, high + room), high)];
}

export function chartScales(
  map: TimeMap,
  frames: number,
  sourceFrames: number,
  box: { left: number; right: number; top: number; bottom: number },
): ChartScales {
  const end = Math.max(frames, map.vertices[map.vertices.length - 1]!.t);
  return {
    x: linearScale([0, end], [box.left, box.right]),
    y: linearScale(sourceRange(map, sourceFrames), [box.bottom, box.top]),
  };
}

/** The curve as an SVG path: straight in its reaches, finely stepped in its bends. */
export function curvePath(map: TimeMap, { x, y }: ChartScales): string {
  const points: [number, number][] = [];
  for (const { from, to, shape } of pieces(map)) {
    const steps = shape.kind === 'reach' ? 1 : 24;
    for (let i = points.length === 0 ? 0 : 1; i <= steps; i++) {
      const t = from + ((to - from) * i) / steps;
      points.push([x(t), y(positionAt(map, t))]);
    }
  }
  return `M${points.map(([a, b]) => `${a.toFixed(2)},${b.toFixed(2)}`).join('L')}`;
}

const LOG_TOP = Math.log2(8);
const LOG_BOTTOM = Math.log2(0.04);

/** Speeds beyond the scale lie at its ends. */
const octave = (speed: number) => Math.max(LOG_BOTTOM, Math.min(LOG_TOP, Math.log2(speed)));

/** Where a speed sits on the speed scale: half and double are equally far from 100 %; still and reverse have bands of their own below. */
export interface SpeedScale {
  readonly place: (speed: number) => number;
  readonly stillTop: number;
  readonly stillBottom: number;
}

export function speedScale(top: number, bottom: number): SpeedScale {
  const height = bottom - top;
  const stillTop = top + height * 0.72;
  const stillBottom = top + height * 0.82;
  const forward = linearScale([LOG_TOP, LOG_BOTTOM], [top + 4, stillTop]);
  const reverse = linearScale([LOG_BOTTOM, LOG_TOP], [stillBottom, bottom - 2]);
  return {
    place: (speed) =>
      Math.abs(speed) < 0.0005
        ? (stillTop + stillBottom) / 2
        : speed > 0
          ? forward(octave(speed))
          : reverse(octave(-speed)),
    stillTop,
    stillBottom,
  };
}
