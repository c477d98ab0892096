import { describe, expect, test } from '@jest/globals';
import { emptyProject, type Project } from '../model/project.js';
import { rate } from '../time/rate.js';
import { addVertex, moveVertex, setBend } from '../time-map/edit.js';
import { addCue, addMoment, addSource, appendClip, moveItem, removeItem, updateClip } from './index.js';
import { narrowedBends } from './narrowed-bends.js';
import { whatChanged } from './what-changed.js';

const source = (id: string, frames: number) => ({
  ...{ id, name: id, frames, moments: [], droppedRepeats: null },
  ...{ nativeRate: rate(120), readAs: rate(120) },
});

/** Two clips of 72 and 48 frames; the first has a moment, and there is a cue. */
function parade(): Project {
  const sources = [source('bell', 360), source('whip', 240)].reduce(addSource, emptyProject(rate(24)));
  const clips = appendClip(appendClip(sources, 'c0', 'bell'), 'c1', 'whip');
  return addCue(addMoment(clips, 'bell', { id: 'hit', frame: 200, name: 'rings' }), {
    ...{ id: 'beat', frame: 30, name: 'beat' },
  });
}

describe('what changed, in words', () => {
  test.each<[string, (project: Project) => Project, string]>([
    ['a clip that went', (p) => removeItem(p, 'c1'), '“whip” is gone'],
    ['a cue without a name', (p) => addCue(p, { id: 'more', frame: 50, name: '' }), 'a cue is there'],
    ['a lock', (p) => updateClip(p, 'c0', (c) => ({ ...c, locks: [0] })), '“bell” is changed (locks)'],
    [
      'speed and method',
      (p) => updateClip(p, 'c0', (c) => ({ ...c, method: 'flow', mends: [], map: addVertex(c.map, 20).map })),
      '“bell” is changed (speed, in-betweens)',
    ],
    ['an order', (p) => moveItem(p, 'c0', 1), 'the reel is changed'],
    ['nothing', (p) => ({ ...p, reel: { ...p.reel } }), 'nothing is changed'],
  ])('%s', (_, change, words) => {
    expect(whatChanged(parade(), change(parade()))).toBe(words);
  });

  test('much is not told one by one', () => {
    const more = [40, 50, 60, 70].reduce((p, frame) => addCue(p, { id: `${frame}`, frame, name: '' }), parade());
    expect(whatChanged(parade(), more)).toBe('a cue is there, a cue is there, a cue is there, 1 more');
  });
});

test('bends that an edit leaves less room than they were given are named once', () => {
  const bent = updateClip(parade(), 'c0', (clip) => {
    const one = addVertex(clip.map, 20).map;
    const two = addVertex(one, 50).map;
    return { ...clip, map: setBend(setBend(two, 1, { widthFrames: 16 }), 2, { widthFrames: 10 }) };
  });
  const near = updateClip(bent, 'c0', (clip) => ({ ...clip, map: moved(clip.map) }));
  expect(narrowedBends(parade(), bent)).toEqual([]);
  expect(narrowedBends(bent, near).map(({ clip, wanted }) => [clip, wanted])).toEqual([
    ['bell', 16],
    ['bell', 10],
  ]);
  expect(
    narrowedBends(
      near,
      updateClip(near, 'c0', (clip) => ({ ...clip, name: 'gong' })),
    ),
  ).toEqual([]);
});

const moved = (map: Parameters<typeof moveVertex>[0]) => moveVertex(map, 2, { t: 26, s: map.vertices[2]!.s });
