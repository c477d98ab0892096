import { InvalidInput } from '../foundation/errors.js';
import { checkTimeMap, clampBends, mapDuration, scaledBend, type TimeMap } from '../time-map/time-map.js';

/** A way for a whole clip to change speed: `map` from (0, 0) to (1, 1), widths as shares of the clip's length. */
export interface ClipShape {
  readonly id: string;
  readonly name: string;
  readonly map: TimeMap;
  readonly suits: string;
  readonly avoid: string;
}

/** One part of a shape: its share of the time, and its speed against the others'. */
type Part = readonly [share: number, speed: number];

function shapeMap(parts: readonly Part[], width: number, ease: TimeMap['bends'][number]['ease'] = 'soft'): TimeMap {
  const time = parts.reduce((sum, [share]) => sum + share, 0);
  const way = parts.reduce((sum, [share, speed]) => sum + share * speed, 0);
  let [t, s] = [0, 0];
  const vertices = [
    { t, s },
    ...parts.map(([share, speed]) => ({ t: (t += share / time), s: (s += (share * speed) / way) })),
  ];
  vertices[vertices.length - 1] = { t: 1, s: 1 };
  return clampBends({
    vertices,
    bends: vertices.map((_, i) => ({ widthFrames: i === 0 || i === parts.length ? 0 : width, ease })),
  });
}

/** Our own shapes for a whole clip. Each keeps the clip's first and last source frame and its length. */
export const CLIP_SHAPES: readonly ClipShape[] = [
  {
    id: 'hover',
    name: 'Hover',
    map: shapeMap(
      [
        [3, 3],
        [4, 0.6],
        [3, 3],
      ],
      0.16,
    ),
    suits: 'One moment in the middle: rush in, hang there, rush away.',
    avoid: 'Shots whose beginning or end matters.',
  },
  {
    id: 'land',
    name: 'Touchdown',
    map: shapeMap(
      [
        [4, 3.2],
        [6, 0.6],
      ],
      0.28,
      'silk',
    ),
    suits: 'Arriving: fast, then settling on a view or a room.',
    avoid: 'When the start holds what must be read.',
  },
  {
    id: 'depart',
    name: 'Push off',
    map: shapeMap(
      [
        [6, 0.6],
        [4, 3.2],
      ],
      0.28,
      'silk',
    ),
    suits: 'Leaving: slow, then away into the next shot.',
    avoid: 'The last shot of a piece.',
  },
  {
    id: 'surge',
    name: 'Surge',
    map: shapeMap(
      [
        [3, 0.6],
        [3, 3.5],
        [3, 0.6],
      ],
      0.18,
    ),
    suits: 'Joining two good parts with a dull one between.',
    avoid: 'Footage at the reel’s own rate: the slow ends need made frames.',
  },
  {
    id: 'swing',
    name: 'Swing back',
    map: shapeMap(
      [
        [4, 2],
        [3, -1.4],
        [4, 2],
      ],
      0.12,
    ),
    suits: 'A hit worth seeing twice; dance and water.',
    avoid: 'Speech, smoke and anything with an obvious direction.',
  },
  {
    id: 'hold',
    name: 'Catch',
    map: shapeMap(
      [
        [4, 2],
        [2, 0],
        [4, 2],
      ],
      0.1,
    ),
    suits: 'A title or a beat of silence on one still frame.',
    avoid: 'Handheld shots: the stop shows.',
  },
  {
    id: 'stairs',
    name: 'Stairs',
    map: shapeMap(
      [
        [1, 4],
        [1, 3],
        [1, 2],
        [1, 1],
      ],
      0.06,
    ),
    suits: 'Winding down in even steps, each on a beat.',
    avoid: 'Continuous camera moves.',
  },
  {
    id: 'pulse',
    name: 'Pulse',
    map: shapeMap(
      [
        [2, 3],
        [2, 0.7],
        [2, 3],
        [2, 0.7],
        [2, 3],
        [2, 0.7],
      ],
      0.1,
    ),
    suits: 'Rhythm: three beats, each rushing in and resting.',
    avoid: 'Long shots: the pattern is seen through.',
  },
  {
    id: 'glide',
    name: 'Glide',
    map: shapeMap(
      [
        [1, 2.2],
        [1, 0.8],
      ],
      0.96,
      'straight',
    ),
    suits: 'Braking all the way: one long, even change.',
    avoid: 'Hits: nothing stands out.',
  },
  {
    id: 'gather',
    name: 'Run up',
    map: shapeMap(
      [
        [1, 0.5],
        [1, 2.5],
      ],
      0.96,
      [0.6, 0, 0.85, 0.35],
    ),
    suits: 'Gathering speed to the very last frame, into a cut.',
    avoid: 'Before a freeze: it ends at its fastest.',
  },
];

/** A clip's curve as a shape: from (0, 0) to (1, 1). Throws `InvalidInput` for one that ends on the frame it starts with. */
export function asShape(map: TimeMap): TimeMap {
  const { first, last, way, duration } = extent(map);
  if (way === 0)
    throw new InvalidInput(
      'shape',
      'this clip ends on the source frame it starts with, so its curve cannot be stretched to another',
    );
  const vertices = map.vertices.map((v) => ({
    t: v === last ? 1 : v.t / duration,
    s: v === last ? 1 : (v.s - first.s) / way,
  }));
  return { vertices, bends: map.bends.map(({ widthFrames, ease }) => ({ widthFrames: widthFrames / duration, ease })) };
}

function extent(map: TimeMap) {
  const first = map.vertices[0]!;
  const last = map.vertices.at(-1)!;
  return { first, last, way: last.s - first.s, duration: mapDuration(map) };
}

/** The curve `shape` stretched to a clip: its length and its first and last source frame stay. */
export function stretchShape(shape: TimeMap, clip: TimeMap): TimeMap {
  const { first, last, way, duration } = extent(clip);
  if (way === 0)
    throw new InvalidInput(
      'shape',
      'this clip ends on the source frame it starts with, so no curve can be stretched to it',
    );
  const end = shape.vertices.length - 1;
  return checkTimeMap(
    clampBends({
      vertices: shape.vertices.map((v, i) =>
        i === end ? { t: duration, s: last.s } : { t: v.t * duration, s: first.s + v.s * way },
      ),
      bends: shape.bends.map((b) => scaledBend(b, duration)),
    }),
    'shape',
  );
}

/**
 * The curve of another clip by absolute frames: its timeline frames and its speeds, from this clip's first source frame on.
 * @param k0 source frames per timeline frame at 100 %, of the other clip and of this one
 */
export function copyCurve(
  other: TimeMap,
  clip: TimeMap,
  k0: { readonly other: number; readonly clip: number },
): TimeMap {
  const from = other.vertices[0]!.s;
  const start = clip.vertices[0]!.s;
  const factor = k0.clip / k0.other;
  return checkTimeMap(
    { ...other, vertices: other.vertices.map((v) => ({ t: v.t, s: start + (v.s - from) * factor })) },
    'curve',
  );
}
