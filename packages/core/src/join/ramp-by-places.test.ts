import { expect, test } from '@jest/globals';
import { realFrames } from '../clean/index.js';
import { addCue, addMoment, addSource, appendClip, tie, updateClip } from '../edit/edit.js';
import { reconcileReel } from '../edit/reel-edit.js';
import { reelDrifts } from '../landing/land-reel.js';
import type { Clip } from '../model/clip.js';
import { DEFAULT_JOIN } from '../model/join.js';
import { emptyProject, type Project } from '../model/project.js';
import { clipSlope } from '../reel/clips.js';
import { placeOf } from '../reel/places.js';
import { withMap } from '../reel/with-map.js';
import { positionAt } from '../time-map/evaluate.js';
import { HARD, reachSlope } from '../time-map/time-map.js';
import { rate } from '../time/rate.js';
import { putJoin, takeJoinOff } from './join.js';
import { placesMoved } from './ramp-by-places.js';

const FRAMES = 600;

/** Two clips of all of their sources, slowed in the middle, so that nothing is left for a ramp; with a moment that has landed, if asked. */
function slowedAmid(fps: number, lands: boolean): Project {
  let project = emptyProject(rate(fps));
  for (const id of ['out', 'in']) {
    const source = { id, name: id, frames: FRAMES, nativeRate: rate(120), readAs: rate(120), moments: [] };
    project = appendClip(addSource(project, { ...source, droppedRepeats: null }), `clip-${id}`, id);
    project = updateClip(project, `clip-${id}`, (clip) => {
      const fast = clipSlope(project, clip);
      const slow = FRAMES - 2 * 54 * fast;
      const vertices = [
        { t: 0, s: 0 },
        { t: 54, s: 54 * fast },
        { t: 54 + slow, s: 54 * fast + slow },
        { t: 108 + slow, s: FRAMES },
      ];
      const bend = { widthFrames: 12, ease: 'soft' as const };
      return withMap(clip, { vertices, bends: [HARD, bend, bend, HARD] });
    });
  }
  if (!lands) return reconcileReel(project);
  const frame = positionAt(clipOf(project, 'clip-out').map, 90);
  const marked = addMoment(addCue(project, { id: 'beat', frame: 90, name: '' }), 'out', { id: 'hit', name: '', frame });
  return reconcileReel(tie(marked, 'clip-out', 'hit', 'beat'));
}

const clipOf = (project: Project, id: string) => placeOf(project, id)!.item as Clip;
const speedsOf = ({ map }: Clip) => map.vertices.slice(1).map((_, i) => reachSlope(map, i));

test.each([
  [24, false],
  [24, true],
  [30, true],
])('on a reel of %i, landed: %j: speeds stay, and where they change moves', (fps, lands) => {
  const project = slowedAmid(fps, lands);
  const joined = reconcileReel(putJoin(project, 'clip-out', DEFAULT_JOIN, 'j'));
  const { undo } = joined.reel.joins[0]!;
  expect(undo).toMatchObject({ before: { slowed: 1 }, after: { slowed: 1 } });
  for (const [id, end, side] of [
    ['clip-out', 'last', undo.before],
    ['clip-in', 'first', undo.after],
  ] as const) {
    const [was, is] = [clipOf(project, id), clipOf(joined, id)];
    const count = placeOf(joined, id)!.frames;
    expect(count).toBe(placeOf(project, id)!.frames);
    const rest = end === 'last' ? speedsOf(is).slice(0, -1) : speedsOf(is).slice(1);
    expect(rest).toEqual(speedsOf(was).map((speed) => expect.closeTo(speed, 9)));
    // Only the ramp, and what is left of the bends, has frames that were real and are not.
    expect(realFrames(is.map).real).toBeGreaterThan(realFrames(was.map).real - DEFAULT_JOIN.into);
    for (const s of [0, count - 1].map((n) => positionAt(is.map, n))) {
      expect(s).toBeGreaterThanOrEqual(-1e-6);
      expect(s).toBeLessThanOrEqual(FRAMES - 1 + 1e-6);
    }
    const inner = end === 'last' ? [1, 2] : [-3, -2];
    const moves = inner.map((i) => {
      const from = (clip: Clip) => clip.map.vertices.at(i)!.t - (end === 'last' ? 0 : clip.map.vertices.at(-1)!.t);
      return Math.abs(from(is) - from(was));
    });
    expect(placesMoved(side, end)).toBeCloseTo(Math.max(...moves), 9);
    expect(placesMoved(side, end)).toBeGreaterThan(1);
  }
  if (lands) expect(reelDrifts(joined).map(({ landed }) => landed)).toEqual([true]);
  expect(takeJoinOff(joined, 'j').reel).toEqual(project.reel);
});

test('a clip of one speed has no place to move, and is slowed', () => {
  let project = slowedAmid(24, false);
  project = updateClip(project, 'clip-out', (clip) =>
    withMap(clip, {
      vertices: [
        { t: 0, s: 0 },
        { t: 120, s: FRAMES },
      ],
      bends: [HARD, HARD],
    }),
  );
  const { before } = putJoin(project, 'clip-out', DEFAULT_JOIN, 'j').reel.joins[0]!.undo;
  expect(before.slowed).toBeLessThan(1);
  expect(placesMoved(before, 'last')).toBe(0);
});
