import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { mapArbitrary } from '../../test/arbitraries.js';
import type { Clip } from '../model/clip.js';
import { emptyProject, type Project } from '../model/project.js';
import { clipSlope } from '../reel/clips.js';
import { placeItems } from '../reel/places.js';
import { withMap } from '../reel/with-map.js';
import { positionAt } from '../time-map/evaluate.js';
import { mapDuration, straightMap } from '../time-map/time-map.js';
import { rate } from '../time/rate.js';
import { addMoment, addSource, appendClip, updateClip } from './edit.js';
import { renumberSource } from './renumber-source.js';

const estimated = { frames: 360, rate: rate(120) };
const source = {
  ...{ id: 'bell', name: 'marble-bell', frames: estimated.frames, nativeRate: estimated.rate, readAs: estimated.rate },
  ...{ moments: [], droppedRepeats: null },
};
const parade = (): Project => appendClip(addSource(emptyProject(rate(24)), source), 'c1', 'bell');
const clipOf = (project: Project) => project.reel.items[0] as Clip;

describe('frames that are counted after they were estimated', () => {
  test('every time of the reel shows the time of the source that it showed, at the same speed', () => {
    fc.assert(
      fc.property(mapArbitrary, fc.constantFrom(rate(60), rate(120_000, 1001), rate(240)), (map, counted) => {
        const project = updateClip(parade(), 'c1', (clip) => withMap(clip, map));
        const after = renumberSource(project, 'bell', estimated, { frames: 10_000, rate: counted });
        const factor = counted.num / counted.den / 120;
        const [was, is] = [clipOf(project), clipOf(after)];
        for (let i = 0; i <= 20; i++) {
          const t = (mapDuration(map) * i) / 20;
          expect(positionAt(is.map, t)).toBeCloseTo(positionAt(was.map, t) * factor, 6);
        }
        expect(clipSlope(after, is)).toBeCloseTo(clipSlope(project, was) * factor, 9);
        expect(after.sources[0]).toMatchObject({ frames: 10_000, nativeRate: counted, readAs: counted });
      }),
    );
  });

  test('moments go to the frame of their time, and not past the last; a clip ends with what there is', () => {
    const marked = [10, 200, 359].reduce(
      (project, frame) => addMoment(project, 'bell', { id: `m${frame}`, frame, name: 'hit' }),
      parade(),
    );
    const framesOf = (project: Project) => project.sources[0]!.moments.map(({ frame }) => frame);
    const half = renumberSource(marked, 'bell', estimated, { frames: 180, rate: rate(60) });
    expect(framesOf(half)).toEqual([5, 100, 179]);
    expect(placeItems(half)[0]!.frames).toBe(placeItems(marked)[0]!.frames);
    const shorter = renumberSource(marked, 'bell', estimated, { frames: 300, rate: rate(120) });
    expect(framesOf(shorter)).toEqual([10, 200, 299]);
    expect(placeItems(shorter)[0]!.frames).toBe(60);
    const turned = updateClip(marked, 'c1', (clip) => withMap(clip, straightMap(72, 359, 0)));
    const begun = renumberSource(turned, 'bell', estimated, { frames: 300, rate: rate(120) });
    expect(placeItems(begun)[0]!.frames).toBe(59);
    expect(positionAt(clipOf(begun).map, 0)).toBeCloseTo(359 - (13 * 359) / 72, 9);
  });

  test('a rate the editor chose stays, mends keep their place, and versions are renumbered with the clip', () => {
    const mends = [20, 100].map((from) => ({ id: `m${from}`, from, to: from + 20, way: 'mix' as const, soft: 1 }));
    const project = updateClip(parade(), 'c1', (clip) => ({
      ...clip,
      mends,
      versions: [{ id: 'v', name: 'before', map: clip.map }],
    }));
    const readSlow = { ...project, sources: [{ ...project.sources[0]!, readAs: rate(24) }] };
    const after = renumberSource(readSlow, 'bell', estimated, { frames: 55, rate: rate(60) });
    expect(after.sources[0]).toMatchObject({ nativeRate: rate(60), readAs: rate(24) });
    expect(clipOf(after).mends).toMatchObject([
      { from: 10, to: 20 },
      { from: 50, to: 55 },
    ]);
    expect(clipOf(after).versions[0]!.map).toEqual(clipOf(after).map);
  });

  test('nothing happens twice, nor where the estimate was right or is not what the project has', () => {
    const project = parade();
    const counted = { frames: 358, rate: rate(120) };
    const once = renumberSource(project, 'bell', estimated, counted);
    expect(renumberSource(once, 'bell', estimated, counted)).toBe(once);
    expect(renumberSource(project, 'bell', estimated, estimated)).toBe(project);
    expect(renumberSource(project, 'bell', { frames: 361, rate: rate(120) }, counted)).toBe(project);
    expect(renumberSource(project, 'other', estimated, counted)).toBe(project);
  });
});
