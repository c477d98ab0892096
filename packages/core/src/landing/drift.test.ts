import { mapArbitrary } from '../../test/arbitraries.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { positionAt } from '../time-map/evaluate.js';
import { HARD, mapFrameCount, straightMap } from '../time-map/time-map.js';
import { clipDrifts } from './drift.js';

const moment = (frame: number) => ({ id: `m${frame}`, frame, name: '' });

const cue = (frame: number) => ({ id: `c${frame}`, frame, name: '', beat: null });

test('a frozen moment shows from its first still frame, and has landed there', () => {
  const map = {
    vertices: [
      [0, 0],
      [20.2, 101],
      [44.2, 101],
      [80, 280],
    ].map(([t, s]) => ({ t: t!, s: s! })),
    bends: [0, 6, 6, 0].map((widthFrames) => ({ widthFrames, ease: 'soft' as const })),
  };
  // The bend into it ends at 23.2: from 24 on it stands still.
  const moment = { id: 'm', frame: 101, name: '' };
  const cue = { id: 'q', frame: 124, name: '', beat: null };
  const ties = [{ momentId: 'm', cueId: 'q' }];
  expect(clipDrifts({ map, ties }, 100, 80, [moment], [cue])).toMatchObject([
    { shownAt: 124, frames: 0, landed: true },
  ]);
});

describe('drift', () => {
  test('is signed: late is above 0, landed is 0 with the frame itself on the cue', () => {
    const map = straightMap(100, 0, 200);
    const of = (m: number, c: number) => clipDrifts({ map: map, ties: [] }, 10, 100, [moment(m)], [cue(c)])[0];
    expect(of(60, 40)).toMatchObject({ shownAt: 40, frames: 0, landed: true, remainder: 0 });
    expect(of(60, 37)).toMatchObject({ frames: 3, landed: false });
    expect(of(60, 44)).toMatchObject({ frames: -4, landed: false });
    expect(of(60, 40.4)).toMatchObject({ frames: 0, landed: true, remainder: expect.closeTo(0.4, 9) });
  });

  test('a moment between two frames is near but has not landed', () => {
    const map = straightMap(100, 0, 200);
    expect(clipDrifts({ map: map, ties: [] }, 0, 100, [moment(61)], [cue(31)])[0]).toMatchObject({ landed: false });
  });

  test('of two appearances the one nearest to a cue counts; what is not shown has none', () => {
    const bounce = {
      vertices: [
        { t: 0, s: 0 },
        { t: 10, s: 20 },
        { t: 20, s: 0 },
      ],
      bends: [HARD, HARD, HARD],
    };
    expect(clipDrifts({ map: bounce, ties: [] }, 0, 20, [moment(10)], [cue(14)])[0]).toMatchObject({
      shownAt: 15,
      frames: 1,
    });
    expect(clipDrifts({ map: bounce, ties: [] }, 0, 20, [moment(21)], [cue(14)])).toEqual([]);
    expect(clipDrifts({ map: bounce, ties: [] }, 0, 20, [moment(10)], [])).toEqual([]);
  });

  test('a tied moment speaks of its own cue, however near another is', () => {
    const map = straightMap(100, 0, 200);
    const drifts = clipDrifts(
      { map, ties: [{ momentId: 'm60', cueId: 'c50' }] },
      0,
      100,
      [moment(60)],
      [cue(31), cue(50)],
    );
    expect(drifts).toMatchObject([{ frames: -20, tied: true }]);
  });

  test('landed means the curve passes through', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.nat(400), fc.nat(300), (map, m, c) => {
        for (const d of clipDrifts({ map: map, ties: [] }, 0, mapFrameCount(map), [moment(m)], [cue(c)]))
          expect(d.landed).toBe(d.shownAt === c && Math.abs(positionAt(map, c) - m) <= 1e-6);
      }),
    );
  });
});
