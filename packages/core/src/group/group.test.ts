import { mapArbitrary } from '../../test/arbitraries.js';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  addCue,
  addMoment,
  addSource,
  appendClip,
  removeMoment,
  removeSource,
  splitClip,
  tie,
  updateClip,
  updateMoment,
} from '../edit/edit.js';
import { withMap } from '../reel/with-map.js';
import { insertGap, pinClip, replaceClip, setReelRate, reconcileReel, trimEnd } from '../edit/reel-edit.js';
import { landClip } from '../landing/land-clip.js';
import { reelDrifts } from '../landing/land-reel.js';
import type { Clip } from '../model/clip.js';
import type { Source } from '../model/group.js';
import { checkDepth, emptyProject, parseProject, type Project } from '../model/project.js';
import { placeItems, placeOf, reelFrames } from '../reel/places.js';
import { resolveClip } from '../resolve/resolve-clip.js';
import { setClipSpeed } from '../time-map/edit.js';
import { straightMap } from '../time-map/time-map.js';
import { rate } from '../time/rate.js';
import { groupItems, playsAsItIs, ungroup } from './group-items.js';
import { excerptOf, footageOf, footageOnReel, insideGroup, withInside } from './inside.js';

const bell: Source = {
  id: 'bell',
  name: 'marble-bell',
  frames: 240,
  nativeRate: rate(24),
  readAs: rate(24),
  moments: [],
  droppedRepeats: null,
};

const boat: Source = { ...bell, id: 'boat', name: 'paper-boat', frames: 480, nativeRate: rate(48), readAs: rate(48) };

const GROUP = { clipId: 'g', sourceId: 'together', name: 'the run' };

/** bell 40–99, a gap of 12, boat 0–119 (60 frames), bell 100–159. */
function parade(): Project {
  let project = [bell, boat].reduce(addSource, emptyProject(rate(24)));
  project = appendClip(project, 'a', 'bell', 40, 99);
  project = appendClip(project, 'b', 'boat', 0, 119);
  project = appendClip(project, 'c', 'bell', 100, 159);
  return insertGap(project, 1, 'gap', 12);
}

const clipOf = (project: Project, id: string) => placeOf(project, id)!.item as Clip;

/** What every frame of the reel shows, in words. */
function reelShows(project: Project): string[] {
  return placeItems(project).flatMap(({ item, frames }) => {
    const show = item.kind === 'clip' ? resolveClip(project, item) : () => undefined;
    return Array.from({ length: frames }, (_, k) => {
      const shown = show(k);
      return shown ? `${shown.source.id} ${JSON.stringify(shown.sample)}` : 'black';
    });
  });
}

describe('a group', () => {
  test('plays what is bound in it as it was, and taken apart it is what it was', () => {
    const project = parade();
    const bound = groupItems(project, ['gap', 'b', 'c'], GROUP);
    expect(bound.reel.items.map(({ id }) => id)).toEqual(['a', 'g']);
    expect(reelShows(bound)).toEqual(reelShows(project));
    expect(playsAsItIs(clipOf(bound, 'g'))).toBe(true);
    expect(ungroup(bound, 'g')).toEqual(project);
    expect(parseProject(JSON.parse(JSON.stringify(bound)))).toEqual(bound);
  });

  test('of any clips, with pinned cuts that cut them short or go on, plays the same frames', () => {
    fc.assert(
      fc.property(mapArbitrary, mapArbitrary, fc.integer({ min: 1, max: 90 }), (first, second, at) => {
        let project = [bell].reduce(addSource, emptyProject(rate(24)));
        for (const id of ['a', 'b', 'c']) project = appendClip(project, id, 'bell');
        project = updateClip(
          updateClip(project, 'a', (c) => withMap(c, first)),
          'b',
          (c) => withMap(c, second),
        );
        project = pinClip(addCue(project, { id: 'q', frame: at, name: 'cue' }), 'b', 'q');
        const bound = groupItems(project, ['a', 'b', 'c'], GROUP);
        expect(bound.sources.at(-1)!.frames).toBe(reelFrames(project));
        const [before, after] = [reelShows(project), reelShows(bound)];
        // A bend cut in two by the pinned cut is two bends: their positions agree to the last bits only.
        before.forEach((words, k) => {
          const numbers = (text: string) => text.match(/-?\d+(\.\d+)?(e-?\d+)?/g)?.map(Number) ?? [];
          if (words !== after[k]) numbers(words).forEach((n, i) => expect(numbers(after[k]!)[i]).toBeCloseTo(n, 5));
        });
      }),
      { numRuns: 150 },
    );
  });

  test('bends across its cuts: the maps compose', () => {
    const bound = groupItems(parade(), ['a', 'gap', 'b'], GROUP);
    const slow = updateClip(bound, 'g', (clip) => withMap(clip, setClipSpeed(clip.map, 0.5, 1)));
    const show = resolveClip(slow, clipOf(slow, 'g'));
    expect(show(31)).toMatchObject({ source: { id: 'bell' }, position: 55.5, k: 15.5 });
    expect(show(119)).toMatchObject({ source: { id: 'bell' }, position: 99.5 });
    expect(show(130)).toBeUndefined();
    // The gap lasts 24 frames now; the boat then runs at half its two frames a frame.
    expect(show(145)).toMatchObject({ source: { id: 'boat' }, position: 1 });
    const back = updateClip(bound, 'g', (clip) => withMap(clip, straightMap(100, 131, 31)));
    expect(resolveClip(back, clipOf(back, 'g'))(0)).toMatchObject({ source: { id: 'boat' }, position: 118 });
    expect(resolveClip(back, clipOf(back, 'g'))(99)).toMatchObject({ source: { id: 'bell' }, position: 72 });
  });

  test('beyond its ends holds, goes round or stays black, as it says', () => {
    const bound = groupItems(parade(), ['a', 'gap', 'b'], GROUP);
    const long = (end: Clip['end']) =>
      updateClip(bound, 'g', (clip) => ({ ...withMap(clip, straightMap(200, -10, 190)), end }));
    const at = (end: Clip['end'], k: number) => resolveClip(long(end), clipOf(long(end), 'g'))(k);
    expect([at('hold', 0)!.position, at('hold', 160)!.position]).toEqual([40, 118]);
    expect([at('black', 0), at('black', 160)]).toEqual([undefined, undefined]);
    expect([at('loop', 0)!.position, at('loop', 160)!.position]).toEqual([2 * (132 - 10 - 72), 40 + 18]);
  });

  test('makes in-betweens as the clip inside says, else as it says itself, else as the reel', () => {
    let project = updateClip(parade(), 'b', (clip) => ({ ...clip, method: 'mix' as const }));
    project = groupItems(project, ['a', 'gap', 'b'], GROUP);
    const kinds = (p: Project) =>
      [11, 161].map((k) => resolveClip(p, { ...clipOf(p, 'g'), map: straightMap(400, 0, 100) })(k)?.sample.kind);
    expect(kinds(project)).toEqual(['source', 'source']);
    const late = (p: Project) => resolveClip(p, { ...clipOf(p, 'g'), map: straightMap(400, 0.25, 132.25) });
    expect([late(project)(11)!.sample.kind, late(project)(230)!.sample.kind]).toEqual(['source', 'mix']);
    const flowing = updateClip(project, 'g', (clip) => ({ ...clip, method: 'flow' as const }));
    expect([late(flowing)(11)!.sample.kind, late(flowing)(230)!.sample.kind]).toEqual(['flow', 'mix']);
  });
});

describe('moments and cuts inside a group', () => {
  function marked(): Project {
    let project = addMoment(parade(), 'boat', { id: 'm', frame: 61, name: 'the bow' });
    project = addCue(addCue(project, { id: 'q', frame: 110, name: 'bar' }), { id: 'p', frame: 72, name: 'beat' });
    return pinClip(tie(project, 'b', 'm', 'q'), 'b', 'p');
  }

  test('are the group’s, with what they were tied and pinned to; taken apart they have it back', () => {
    const bound = groupItems(marked(), ['a', 'gap', 'b'], GROUP);
    expect(bound.sources.at(-1)!.moments).toEqual([
      { id: 'b.cut', frame: 72, name: 'cut to paper-boat' },
      { id: 'b.m', frame: 102.5, name: 'the bow' },
    ]);
    expect(clipOf(bound, 'g').ties).toEqual([
      { momentId: 'b.m', cueId: 'q' },
      { momentId: 'b.cut', cueId: 'p' },
    ]);
    expect(clipOf(ungroup(bound, 'g'), 'b')).toMatchObject({ pin: 'p', ties: [{ momentId: 'm', cueId: 'q' }] });
  });

  test('land through the group’s curve: the real source frame shows on the cue’s frame', () => {
    const bound = groupItems(marked(), ['a', 'gap', 'b'], GROUP);
    const { project, conflicts } = landClip(bound, 'g', { freeEnd: true });
    expect(conflicts).toEqual([]);
    expect(reelDrifts(project).every(({ landed }) => landed)).toBe(true);
    const show = resolveClip(project, clipOf(project, 'g'));
    expect(show(110)).toMatchObject({ source: { id: 'boat' }, sample: { kind: 'source', frame: 61 } });
    expect(show(72)).toMatchObject({ source: { id: 'boat' }, position: 0 });
  });

  test('are marked, renamed and removed on the clip inside', () => {
    const bound = groupItems(marked(), ['a', 'gap', 'b'], GROUP);
    const more = reconcileReel(addMoment(bound, 'together', { id: 'n', frame: 20, name: 'the bell' }));
    expect(more.sources.find(({ id }) => id === 'bell')!.moments).toEqual([{ id: 'n', frame: 60, name: 'the bell' }]);
    expect(more.sources.at(-1)!.moments[0]).toEqual({ id: 'a.n', frame: 20, name: 'the bell' });
    expect(
      reconcileReel(updateMoment(bound, 'together', 'b.m', { name: 'bow' })).sources.at(-1)!.moments[1]!.name,
    ).toBe('bow');
    expect(() => updateMoment(bound, 'together', 'b.m', { frame: 3 })).toThrow(/open it/);
    const without = reconcileReel(removeMoment(bound, 'together', 'b.m'));
    expect(clipOf(without, 'g').ties).toEqual([{ momentId: 'b.cut', cueId: 'p' }]);
    expect(() => removeMoment(bound, 'together', 'b.cut')).toThrow(/cut inside the group/);
    expect(() => addMoment(bound, 'together', { id: 'n', frame: 64, name: 'nothing' })).toThrow(/no clip/);
  });
});

describe('inside a group', () => {
  const bound = groupItems(parade(), ['a', 'gap', 'b'], GROUP);

  test('every edit works as on the reel, and what shows the group follows', () => {
    const view = insideGroup(bound, 'together');
    expect(view.reel.items.map(({ id }) => id)).toEqual(['a', 'gap', 'b']);
    expect(withInside(bound, 'together', view)).toEqual(bound);
    const shorter = reconcileReel(withInside(bound, 'together', trimEnd(view, 'a', 20)));
    expect(placeItems(shorter).map(({ frames }) => frames)).toEqual([132 - 40, 60]);
    expect(resolveClip(shorter, clipOf(shorter, 'g'))(40)).toMatchObject({ source: { id: 'boat' } });
    const longer = reconcileReel(withInside(bound, 'together', appendClip(view, 'd', 'bell')));
    expect(placeOf(longer, 'g')!.frames).toBe(132 + 240);
    expect(reconcileReel(longer)).toBe(longer);
  });

  test('the reel’s own matters cannot be changed', () => {
    const view = insideGroup(bound, 'together');
    expect(() => withInside(bound, 'together', setReelRate(view, rate(30)))).toThrow(/whole reel/);
    const heard = {
      id: 's',
      footageId: 'f',
      name: 'tune',
      startSeconds: 0,
      fromSeconds: 0,
      toSeconds: 9,
      gainDb: 0,
      fadeInSeconds: 0,
      fadeOutSeconds: 0,
      beats: null,
    };
    expect(() => withInside(bound, 'together', { ...view, reel: { ...view.reel, sounds: [heard] } })).toThrow(
      /whole reel/,
    );
  });

  test('groups lie in groups, but none in itself', () => {
    const outer = groupItems(bound, ['g', 'c'], { clipId: 'o', sourceId: 'all', name: 'all' });
    expect(reelShows(outer)).toEqual(reelShows(parade()));
    expect(outer.sources.at(-1)!.moments.map(({ id }) => id)).toEqual(['g.b.cut', 'c.cut']);
    expect(footageOf(outer, clipOf(outer, 'o')).map(({ id }) => id)).toEqual(['bell', 'boat']);
    expect([...footageOnReel(outer)]).toEqual(['bell', 'boat']);
    expect(excerptOf(outer, [clipOf(outer, 'o')]).sources.map(({ id }) => id)).toEqual([
      'all',
      'together',
      'bell',
      'boat',
    ]);
    expect(parseProject(JSON.parse(JSON.stringify(outer)))).toEqual(outer);
    const inside = insideGroup(outer, 'together');
    expect(() => withInside(outer, 'together', replaceClip(inside, 'a', 'all'))).toThrow(/itself/);
    const looped = {
      ...outer,
      sources: outer.sources.map((s) => (s.id === 'together' ? { ...s, content: insideGroup(outer, 'all').reel } : s)),
    };
    expect(() => checkDepth(looped)).toThrow(/would hold itself/);
    // An edit deep inside reaches the reel.
    const edited = reconcileReel(withInside(outer, 'together', trimEnd(inside, 'a', 20)));
    expect(reelFrames(edited)).toBe(reelFrames(outer) - 40);
  });

  test('is kept while anything shows it, and its footage with it', () => {
    expect(() => removeSource(bound, 'boat')).toThrow(/"paper-boat" still uses it/);
    const split = splitClip(bound, 'g', 40, 'g2');
    const half = ungroup(split, 'g');
    expect(half.reel.items.map(({ id }) => id)).toEqual(['a', 'g2', 'c']);
    expect(half.sources.some(({ id }) => id === 'together')).toBe(true);
    const apart = ungroup(half, 'g2');
    // The clip that was cut in two has two ids.
    expect(apart.reel.items.map(({ id }) => id)).toEqual(['a', 'a-2', 'gap', 'b', 'c']);
    expect(apart.sources.map(({ id }) => id)).toEqual(['bell', 'boat']);
    expect(reelShows(apart)).toEqual(reelShows(parade()));
  });

  test('another rate of the reel keeps the time of everything in it', () => {
    const faster = setReelRate(bound, rate(48));
    expect(reelFrames(faster)).toBe(2 * reelFrames(bound));
    expect(resolveClip(faster, clipOf(faster, 'g'))(31)).toMatchObject({ source: { id: 'bell' }, position: 55.5 });
  });

  test('only neighbours can be bound', () => {
    expect(() => groupItems(parade(), ['a', 'b'], GROUP)).toThrow(/neighbours/);
    expect(() => groupItems(parade(), ['a'], GROUP)).toThrow(/two clips or more/);
    expect(() => ungroup(parade(), 'a')).toThrow(/is no group/);
  });
});

test('groups in groups follow what is inside them in whatever order they are listed', () => {
  const pair = groupItems(parade(), ['a', 'gap', 'b'], GROUP);
  const outer = groupItems(pair, ['g', 'c'], { clipId: 'o', sourceId: 'all', name: 'all' });
  const inside = insideGroup(outer, 'together');
  const edited = withInside(outer, 'together', trimEnd(inside, 'a', 20));
  const turned = reconcileReel({ ...edited, sources: edited.sources.toReversed() });
  expect(reelFrames(turned)).toBe(reelFrames(outer) - 40);
  expect(turned.sources.toReversed()).toEqual(reconcileReel(edited).sources);
});
