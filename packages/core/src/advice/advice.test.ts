import { mapArbitrary } from '../../test/arbitraries.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { addSource, appendClip, updateClip } from '../edit/edit.js';
import { InvalidInput } from '../foundation/errors.js';
import type { Clip } from '../model/clip.js';
import { putJoin } from '../join/join.js';
import { DEFAULT_JOIN } from '../model/join.js';
import { emptyProject, type Project } from '../model/project.js';
import { checkTimeMap, HARD, type TimeMap } from '../time-map/time-map.js';
import { rate } from '../time/rate.js';
import { adviseClip } from './advice.js';

function withMap(map: TimeMap, sourceRate = 120, method: Clip['method'] = 'step'): { project: Project; clip: Clip } {
  const r = rate(sourceRate);
  const source = {
    id: 'bell',
    name: 'marble-bell',
    frames: 420,
    nativeRate: r,
    readAs: r,
    moments: [],
    droppedRepeats: null,
  };
  const project = updateClip(appendClip(addSource(emptyProject(rate(24)), source), 'c', 'bell'), 'c', (c) => ({
    ...c,
    map,
    method,
  }));
  return { project, clip: project.reel.items[0] as Clip };
}

const advise = (map: TimeMap, sourceRate?: number, method?: Clip['method']) => {
  const { project, clip } = withMap(map, sourceRate, method);
  return adviseClip(project, clip);
};

const corner = (second: number, width = 0): TimeMap => ({
  vertices: [
    { t: 0, s: 0 },
    { t: 30, s: 150 },
    { t: 60, s: 150 + 30 * second },
  ],
  bends: [HARD, { widthFrames: width, ease: 'soft' }, HARD],
});

describe('advice', () => {
  test('a hard change of speed, smoothed by one press', () => {
    const [advice] = advise(corner(1));
    expect(advice).toMatchObject({
      frame: 30,
      sentence: 'Speed jumps from 100 % to 20 % at frame 30: it will look choppy.',
    });
    const mended = advice!.remedy!.apply(corner(1));
    expect(mended.bends[1]!.widthFrames).toBe(12);
    expect(advise(mended)).toEqual([]);
    expect(advise(corner(1, 8))).toEqual([]);
    expect(advise(corner(0))).toEqual([]);
    expect(advise(corner(4, 0)).map((a) => a.id)).toEqual([]);
  });

  test('an uneven cadence under Step, and the nearest that is even; under Mix it is no trouble', () => {
    const map = (slope: number): TimeMap => ({
      vertices: [
        { t: 0, s: 0 },
        { t: 60, s: 60 * slope },
      ],
      bends: [HARD, HARD],
    });
    const [slow] = advise(map(0.75), 60);
    expect(slow!.sentence).toBe('At 30 % frames are held unevenly under Step: for 2, 1, 1 frames.');
    expect(slow!.remedy!.label).toBe('Even at 40 %');
    expect(advise(slow!.remedy!.apply(map(0.75)), 60)).toEqual([]);
    expect(advise(map(2.5), 60)[0]!.sentence).toBe(
      'At 100 % frames are skipped unevenly under Step, in a pattern of 2 frames.',
    );
    expect(advise(map(0.75), 60, 'mix').map((a) => a.id)).toEqual(['below-0-3000']);
    expect(advise(map(1), 60)).toEqual([]);
    expect(advise(map(0.5), 60).map((a) => a.id)).toEqual(['below-0-2000']);
  });

  test('the peak of a ramp join is left alone: another speed there would take the join off', () => {
    // On a reel of 25 four times the speed of 120 fps is uneven under Step, and twelve times too fast to be read.
    const { project } = withMap(corner(1, 12));
    const empty: Project = { ...project, reel: { ...project.reel, rate: rate(25), items: [] } };
    const two = ['a', 'b'].reduce((all, id) => appendClip(all, id, 'bell', 150, 269), empty);
    for (const [peak, said] of [
      [4, /At 400 % frames are skipped unevenly/],
      [12, /At 1200 % .* too fast/],
    ] as const) {
      const joined = putJoin(two, 'a', { ...DEFAULT_JOIN, into: 6, outOf: 6, peak }, 'j');
      const apart = { ...joined, reel: { ...joined.reel, joins: [] } };
      const told = (on: Project) =>
        on.reel.items.map((item) => adviseClip(on, item as Clip).filter(({ sentence }) => said.test(sentence)).length);
      expect([told(joined), told(apart)]).toEqual([
        [0, 0],
        [1, 1],
      ]);
    }
  });

  test('a speed the source has too few frames for, by how its frames are made', () => {
    const map: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 60, s: 30 },
      ],
      bends: [HARD, HARD],
    };
    expect(advise(map, 120)[0]!.sentence).toBe(
      '10 % shows 12 source frames a second, and those between are held: it will stutter.',
    );
    const [mixed] = advise(map, 120, 'mix');
    expect(mixed!.sentence).toMatch(/are blended: moving edges will look double/);
    expect(advise(map, 120, 'flow')).toEqual([]);
    expect(mixed!.remedy!.label).toBe('20 %, all real');
    expect(advise(mixed!.remedy!.apply(map), 120, 'mix')).toEqual([]);
  });

  test('too fast to be read, and slowed to what can be', () => {
    const map: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 4, s: 400 },
      ],
      bends: [HARD, HARD],
    };
    const [fast] = advise(map);
    expect(fast!.sentence).toBe('At 2000 % each frame is 0.83 s of source after the last: too fast to be read.');
    expect(advise(fast!.remedy!.apply(map))).toEqual([]);
  });

  test('a bend its neighbour squeezes, given half the neighbour’s room', () => {
    const map: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 30, s: 150 },
        { t: 43, s: 163 },
        { t: 80, s: 348 },
      ],
      bends: [HARD, { widthFrames: 24, ease: 'soft' }, { widthFrames: 2, ease: 'soft' }, HARD],
    };
    const [squeezed] = advise(map);
    expect(squeezed).toMatchObject({
      id: 'squeezed-2',
      sentence: 'The bend at frame 43 has 2.0 frames for 20 % into 100 %: the one beside it leaves no more.',
    });
    const mended = squeezed!.remedy!.apply(map);
    expect(mended.bends.map((b) => b.widthFrames)).toEqual([0, 12, 12, 0]);
    expect(advise(mended)).toEqual([]);
  });

  test('source that runs out, and the clip ended with it', () => {
    const map: TimeMap = {
      vertices: [
        { t: 0, s: 300 },
        { t: 40, s: 500 },
      ],
      bends: [HARD, HARD],
    };
    const [advice] = advise(map);
    expect(advice).toMatchObject({
      id: 'source-runs-out',
      frame: 24,
      sentence: '16 frames ask for source that is not there, from frame 24 on.',
    });
    expect(advise(advice!.remedy!.apply(map))).toEqual([]);
  });

  test('every remedy gives a sound map and takes its own advice away', () => {
    fc.assert(
      fc.property(mapArbitrary, (map) => {
        for (const advice of advise(map)) {
          if (!advice.remedy) continue;
          let mended: TimeMap;
          try {
            mended = advice.remedy.apply(map);
          } catch (error) {
            expect(error).toBeInstanceOf(InvalidInput);
            continue;
          }
          expect(advise(checkTimeMap(mended)).map((a) => a.id)).not.toContain(advice.id);
        }
      }),
      { numRuns: 300 },
    );
  });
});

test('a rate that is never clean on the reel is told once for its source, with what would make it so', () => {
  const { project, clip } = withMap(corner(5));
  const source = { ...project.sources[0]!, nativeRate: rate(60000, 1001), readAs: rate(60000, 1001) };
  const told = (p: Project) => adviseClip(p, clip).filter(({ id }) => id.startsWith('never-clean'));
  expect(told(project)).toEqual([]);
  expect(told({ ...project, sources: [source] })).toMatchObject([
    {
      id: 'never-clean-bell-59.94-24',
      sentence: expect.stringMatching(/Read as 60, or on a reel of 23.976, it can be/),
    },
  ]);
});
