import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { addCue, addMoment, addSource, appendClip, tie, updateClip } from '../edit/edit.js';
import { InvalidInput } from '../foundation/errors.js';
import { landingsOf } from '../landing/land-clip.js';
import type { Clip } from '../model/clip.js';
import { emptyProject, type Project } from '../model/project.js';
import { type PairMotion, pairMotion, parseMotion, type SourceMotion, writeMotion } from '../motion/source-motion.js';
import { interpolationOf } from '../reel/interpolation.js';
import { placeItems } from '../reel/places.js';
import { sampleInterpolated } from '../sampling/interpolation.js';
import { isWholeFrame, partsOf } from '../sampling/sample.js';
import { positionAt } from '../time-map/evaluate.js';
import { HARD, mapDuration, straightMap, type TimeMap } from '../time-map/time-map.js';
import { rate } from '../time/rate.js';
import { speedThrough, mendSpot, removeMend, updateMend } from './mend.js';
import { byDoubt, clipConfidence, roughSpots } from './rough-spots.js';

const SURE: PairMotion = { confidence: 0.99, exposure: 0, camera: { x: 0, y: 0, push: 0, roll: 0, sure: 1 } };

const motionOf = (frames: number, rough: readonly number[], confidence = 0.1): SourceMotion => ({
  pairs: Array.from({ length: frames - 1 }, (_, n) => (rough.includes(n) ? { ...SURE, confidence } : SURE)),
  across: new Map(),
});

const FRAMES = 240;

function parade(map: TimeMap, change: Partial<Clip> = {}): Project {
  const source = {
    id: 's',
    name: 'marble-bell',
    frames: FRAMES,
    nativeRate: rate(24),
    readAs: rate(24),
    moments: [],
    droppedRepeats: null,
  };
  const project = appendClip(addSource(emptyProject(rate(24)), source), 'c', 's');
  return updateClip(project, 'c', (clip) => ({ ...clip, map, method: 'flow', ...change }));
}

const clipOf = (project: Project) => project.reel.items[0] as Clip;

/** A tenth of its speed: source frames 0 to 20 over 200 frames. */
const slow = () => parade(straightMap(200, 0, 20));

const spotsOf = (project: Project, motion: SourceMotion) => roughSpots(project, clipOf(project), motion);

describe('rough spots', () => {
  test('are where Flow makes frames between doubtful pairs', () => {
    expect(spotsOf(slow(), motionOf(FRAMES, [7, 8]))).toEqual([
      { from: 71, to: 89, sourceFrom: 7, sourceTo: 9, frames: 18, confidence: 0.1, worst: { a: 7, b: 8 } },
    ]);
  });

  test('are none under Mix and Step, nor where every frame is real', () => {
    const rough = motionOf(FRAMES, [7, 8]);
    for (const method of ['mix', 'step'] as const)
      expect(
        spotsOf(
          updateClip(slow(), 'c', (c) => ({ ...c, method })),
          rough,
        ),
      ).toEqual([]);
    expect(spotsOf(parade(straightMap(200, 0, 200)), rough)).toEqual([]);
  });

  test('there and back are two', () => {
    const bounce: TimeMap = {
      vertices: [
        { t: 0, s: 0 },
        { t: 100, s: 20 },
        { t: 200, s: 0 },
      ],
      bends: [HARD, HARD, HARD],
    };
    expect(spotsOf(parade(bounce), motionOf(FRAMES, [7])).map(({ from, to }) => [from, to])).toEqual([
      [36, 39],
      [161, 164],
    ]);
  });

  test('far apart in the source they are two, near by one', () => {
    expect(spotsOf(slow(), motionOf(FRAMES, [5, 7]))).toHaveLength(1);
    expect(spotsOf(slow(), motionOf(FRAMES, [5, 12]))).toHaveLength(2);
  });

  test('the most doubtful comes first in a list', () => {
    const motion: SourceMotion = {
      ...motionOf(FRAMES, []),
      pairs: motionOf(FRAMES, []).pairs.map((p, n) => ({ ...p, confidence: { 3: 0.4, 12: 0.2 }[n] ?? 1 })),
    };
    expect(byDoubt(spotsOf(slow(), motion)).map(({ worst }) => worst.a)).toEqual([12, 3]);
  });

  test('past repeats that are left out, the pair that then counts is asked', () => {
    const droppedRepeats = { mode: 'keep' as const, repeats: [8] };
    const project = slow();
    const skipped = { ...project, sources: project.sources.map((s) => ({ ...s, droppedRepeats })) };
    const motion: SourceMotion = {
      ...motionOf(FRAMES, []),
      across: new Map([[7, { to: 9, motion: { ...SURE, confidence: 0.2 } }]]),
    };
    expect(pairMotion(motion, 7, 9)?.confidence).toBe(0.2);
    expect(pairMotion(motion, 7, 10)).toBeUndefined();
    expect(spotsOf(skipped, motion)[0]).toMatchObject({ sourceFrom: 7, sourceTo: 9, worst: { a: 7, b: 9 } });
  });

  test('every frame of a clip has a confidence', () => {
    const sure = clipConfidence(slow(), clipOf(slow()), motionOf(FRAMES, [7]));
    expect(sure).toHaveLength(200);
    expect([70, 71, 79, 80, 81].map((k) => sure[k])).toEqual([1, 0.1, 0.1, 1, 0.99]);
  });
});

describe('mending a spot', () => {
  const motion = motionOf(FRAMES, [7, 8]);
  const spot = spotsOf(slow(), motion)[0]!;

  test.each(['mix', 'step', 'hold'] as const)('with %s it is a spot no more, and the curve is as it was', (way) => {
    const mended = mendSpot(slow(), 'c', spot, way, 'm');
    expect(spotsOf(mended, motion)).toEqual([]);
    expect(clipOf(mended).map).toEqual(clipOf(slow()).map);
  });

  test('once more replaces the first mend; taken off, the spot is there again', () => {
    const twice = mendSpot(mendSpot(slow(), 'c', spot, 'mix', 'm'), 'c', spot, 'step', 'n');
    expect(clipOf(twice).mends).toEqual([{ id: 'n', from: 7, to: 9, way: 'step', soft: 1 }]);
    expect(clipOf(updateMend(twice, 'c', 'n', { soft: 3 })).mends[0]!.soft).toBe(3);
    expect(spotsOf(removeMend(twice, 'c', 'n'), motion)).toEqual([spot]);
  });
});

describe('hurrying through', () => {
  const motion = motionOf(FRAMES, [7, 8]);

  test('leaves no made frame in the stretch; the clip keeps its content, length and ends', () => {
    const project = slow();
    const hurried = speedThrough(project, 'c', spotsOf(project, motion)[0]!);
    expect(spotsOf(hurried, motion)).toEqual([]);
    const [before, after] = [clipOf(project).map, clipOf(hurried).map];
    expect(mapDuration(after)).toBe(mapDuration(before));
    expect([positionAt(after, 0), positionAt(after, 200)]).toEqual([positionAt(before, 0), positionAt(before, 200)]);
    const shown = Array.from({ length: 191 }, (_, k) =>
      sampleInterpolated(
        hurried.sources[0]!,
        interpolationOf(hurried, clipOf(hurried)),
        'hold',
        positionAt(after, k),
        k,
      ),
    );
    for (const frame of [7, 8, 9])
      expect(
        shown.filter((s) => partsOf(s).some((part) => part.kind === 'source' && part.frame === frame)),
      ).not.toEqual([]);
  });

  test('runs backward in a reversed clip', () => {
    const project = parade(straightMap(200, 20, 0));
    const hurried = speedThrough(project, 'c', spotsOf(project, motion)[0]!);
    expect(spotsOf(hurried, motion)).toEqual([]);
    for (let k = 1; k < 200; k++)
      expect(positionAt(clipOf(hurried).map, k)).toBeLessThan(positionAt(clipOf(hurried).map, k - 1));
  });

  test('keeps every landing, wherever moments and spots lie', () => {
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 16 }), fc.integer({ min: 2, max: 18 }), (rough, moment) => {
        let project = addMoment(slow(), 's', { id: 'm', frame: moment, name: 'marble meets bell' });
        project = tie(addCue(project, { id: 'q', frame: moment * 10, name: 'one' }), 'c', 'm', 'q');
        const spots = spotsOf(project, motionOf(FRAMES, [rough]));
        let hurried: Project;
        try {
          hurried = speedThrough(project, 'c', spots[0]!);
        } catch (error) {
          // Beside the spot there may be no room between it and the landing.
          expect(error).toBeInstanceOf(InvalidInput);
          fc.pre(false);
        }
        const { start } = placeItems(hurried)[0]!;
        for (const { moment: s, cue } of landingsOf(hurried, 'c'))
          expect(Math.abs(positionAt(clipOf(hurried).map, cue - start) - s)).toBeLessThanOrEqual(1e-6);
        const k = Array.from({ length: 190 }, (_, n) => n).find(
          (n) => Math.abs(positionAt(clipOf(hurried).map, n) - rough) < 1e-6,
        )!;
        expect(isWholeFrame(positionAt(clipOf(hurried).map, k + 1))).toBe(true);
      }),
    );
  });

  test('is refused, and says why, where nothing can be gained or something would be lost', () => {
    const spot = spotsOf(slow(), motion)[0]!;
    expect(() => speedThrough(parade(straightMap(20, 0, 20)), 'c', { ...spot, from: 7, to: 9 })).toThrow(
      /as fast as its frames allow/,
    );
    expect(() => speedThrough(parade(straightMap(40, 8, 12)), 'c', { ...spot, from: 0, to: 9 })).toThrow(
      /begins or ends inside/,
    );
    expect(() => speedThrough(parade(straightMap(200, 0, 20), { locks: [0] }), 'c', spot)).toThrow(/locked/);
  });
});

describe('a motion file', () => {
  const number = fc.double({ min: -2, max: 2, noNaN: true });
  const pair = fc.record({
    confidence: fc.double({ min: 0, max: 1, noNaN: true }),
    exposure: fc.oneof(number, fc.constant(NaN)),
    camera: fc.record({ x: number, y: number, push: number, roll: number, sure: number }),
  });

  test('comes back, rounded to ten-thousandths, cuts among it', () => {
    fc.assert(
      fc.property(fc.array(pair, { maxLength: 20 }), (pairs) => {
        const back = parseMotion(
          JSON.parse(
            JSON.stringify(
              writeMotion({ pairs, across: new Map(pairs.map((motion, n) => [n, { to: n + 2, motion }])) }),
            ),
          ),
        );
        expect(back.pairs).toHaveLength(pairs.length);
        expect(back.across.size).toBe(pairs.length);
        back.pairs.forEach((read, n) => {
          expect(read.confidence).toBeCloseTo(pairs[n]!.confidence, 4);
          expect(Number.isNaN(read.exposure)).toBe(Number.isNaN(pairs[n]!.exposure));
          expect(read.camera.roll).toBeCloseTo(pairs[n]!.camera.roll, 3);
        });
      }),
    );
  });

  test('that is broken is refused by its place', () => {
    const file = JSON.parse(JSON.stringify(writeMotion(motionOf(3, [])))) as { pairs: unknown[][]; version: number };
    expect(() => parseMotion({ ...file, version: 2 })).toThrow(/motion\.version/);
    expect(() => parseMotion({ ...file, pairs: [[1, 0, 'x']] })).toThrow(/motion\.pairs\[0\]\[2\]/);
  });
});
